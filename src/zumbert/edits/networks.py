"""Networks, each with its standard and trench type, and which structures and pipes belong to
them.
"""

from collections.abc import Iterable

from msgspec.structs import replace

from zumbert.edits.basis import requoted
from zumbert.edits.records import free_name, with_one
from zumbert.errors import EditError
from zumbert.model.display import counted
from zumbert.model.ids import NetworkId, PipeId, StandardId, StructureId, TrenchTypeId
from zumbert.model.network import Network
from zumbert.model.project import Project, with_id


def add_network(project: Project, name: str, like: NetworkId) -> tuple[Project, NetworkId]:
    """The project with a network more, on the standard and trench type of another. EditError for
    a name that is taken.
    """
    name = free_name(project.networks, name, None, "network")
    project, key = with_id(project, "n")
    network = replace(project.networks[like], id=NetworkId(key), name=name)
    return replace(project, networks={**project.networks, network.id: network}), network.id


def set_network(
    project: Project, network: NetworkId, structures: Iterable[StructureId], pipes: Iterable[PipeId]
) -> Project:
    """The project with some structures and pipes in a network; pipes stay as they lie."""
    wanted_s, wanted_p = set(structures), set(pipes)
    s = {
        k: replace(v, network=network) if k in wanted_s and v.network != network else v
        for k, v in project.structures.items()
    }
    p = {
        k: replace(v, network=network) if k in wanted_p and v.network != network else v
        for k, v in project.pipes.items()
    }
    same = all(s[k] is v for k, v in project.structures.items()) and all(
        p[k] is v for k, v in project.pipes.items()
    )
    return project if same else requoted(project, replace(project, structures=s, pipes=p))


def set_existing(
    project: Project, network: NetworkId, standard: StandardId | None, told: bool
) -> Project:
    """The project with the standard that existing work of a network is judged by (None: the same as
    proposed work), and whether what is found there is only told, as cautions.
    """
    old = project.networks[network]
    new = replace(old, existing_standard=standard, existing_told=told)
    return (
        project
        if new == old
        else replace(project, networks=with_one(project.networks, network, new))
    )


def change_network(
    project: Project,
    network: NetworkId,
    name: str | None = None,
    standard: StandardId | None = None,
    trench: TrenchTypeId | None = None,
) -> Project:
    """The project with a network of another name, or on another of the project's standards or
    trench types.
    """
    old: Network = project.networks[network]
    new = replace(
        old,
        name=old.name if name is None else free_name(project.networks, name, network, "network"),
        standard=standard or old.standard,
        trench=trench or old.trench,
    )
    return (
        project
        if new == old
        else replace(project, networks=with_one(project.networks, network, new))
    )


def remove_network(project: Project, network: NetworkId) -> Project:
    """The project without a network. Raises EditError while it has members, or is the only one."""
    if len(project.networks) == 1:
        raise EditError("A project keeps one network at least.")
    members = sum(s.network == network for s in project.structures.values())
    members += sum(p.network == network for p in project.pipes.values())
    if members:
        raise EditError(
            f'"{project.networks[network].name}" has {counted(members, "thing")}: move them to '
            "another network first."
        )
    digging = replace(project.digging, left_out=project.digging.left_out - {network})
    return replace(
        project,
        networks={k: n for k, n in project.networks.items() if k != network},
        digging=digging,
    )
