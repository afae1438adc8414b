"""`python -m benchmarks [NAME…]`: a line a figure; exits 1 where a goal is missed."""

import sys

from benchmarks.checking import checking
from benchmarks.deliver import deliver
from benchmarks.drag import drag
from benchmarks.flowing import flowing
from benchmarks.growth import growth
from benchmarks.panning import panning
from benchmarks.plan import plan
from benchmarks.reading import reading
from benchmarks.rules import rules
from benchmarks.section import section
from benchmarks.space import space
from benchmarks.start import start
from benchmarks.surfaces import surfaces
from benchmarks.trenches import trench_volumes

BENCHMARKS = {
    b.__name__: b
    for b in (
        checking,
        deliver,
        drag,
        flowing,
        growth,
        panning,
        plan,
        reading,
        rules,
        section,
        space,
        start,
        surfaces,
        trench_volumes,
    )
}


def main(names: list[str]) -> int:
    unknown = [n for n in names if n not in BENCHMARKS]
    if unknown:
        print(
            f"There is no benchmark {unknown[0]}: there are {', '.join(BENCHMARKS)}.",
            file=sys.stderr,
        )
        return 2
    fine = True
    for name in names or BENCHMARKS:
        for figure in BENCHMARKS[name]():
            print(figure.line(), flush=True)
            fine = fine and figure.ok
    return 0 if fine else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
