"""The demo as a job, composed once."""

import pytest

from tests.build import facts_of
from zumbert.delivery.job import Job
from zumbert.delivery.pages import leaves, page
from zumbert.demo.project import demo_project


@pytest.fixture(scope="session")
def job():
    return Job(demo_project(), facts_of(demo_project()))


@pytest.fixture(scope="session")
def pages(job):
    every = leaves(job)
    return [page(job, leaf, every) for leaf in every]
