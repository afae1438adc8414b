"""Mutants of the source: small changes of meaning, each of which some test should see.

As a plugin of pytest (`-p benchmarks.mutants`) it puts one, named by the environment, in the place
of its module.
"""

import ast
import importlib.abc
import importlib.util
import os
import sys
from collections.abc import Callable, Iterator, Sequence
from importlib.machinery import ModuleSpec, SourceFileLoader
from pathlib import Path
from types import CodeType
from typing import Any, NamedTuple

SOURCE = Path(__file__).parents[1] / "src"
VARIABLE = "ZUMBERT_MUTANT"  # "module number"
TINY = 1e-6  # numbers up to it are tolerances: nothing tells another one
COMPARED: dict[type, type] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip
COUNTED: dict[type, type] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.Pow: ast.Mult,
    ast.FloorDiv: ast.Div,
    ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip


class Mutant(NamedTuple):
    """One change: in which module, at which of its places, and how that reads before and after."""

    module: str
    number: int
    line: int
    before: str
    after: str


def file_of(module: str) -> Path:
    """The file of a module."""
    path = SOURCE.joinpath(*module.split("."))
    return path / "__init__.py" if path.is_dir() else path.with_suffix(".py")


def mutants(module: str) -> list[Mutant]:
    """All mutants of a module."""
    out = []
    for number, (node, change) in enumerate(
        _places(ast.parse(file_of(module).read_text(encoding="utf-8")))
    ):
        before = ast.unparse(node)
        change()
        out.append(Mutant(module, number, node.lineno, before, ast.unparse(node)))
    return out


def mutated(module: str, number: int) -> CodeType:
    """The code of a module with one change."""
    file = file_of(module)
    tree = ast.parse(file.read_text(encoding="utf-8"))
    list(_places(tree))[number][1]()
    return compile(ast.fix_missing_locations(tree), str(file), "exec")


def _places(tree: ast.AST) -> Iterator[tuple[Any, Callable[[], None]]]:
    """Every place that can be changed, in order: the node that shows it, and what changes it."""
    left_out = {id(n) for part in _without_meaning(tree) for n in ast.walk(part)}
    for node in ast.walk(tree):
        if id(node) in left_out:
            continue
        if isinstance(node, ast.Compare):
            for i, op in enumerate(node.ops):
                yield node, _setter(node.ops, i, COMPARED[type(op)]())
        elif (
            isinstance(node, (ast.BinOp, ast.AugAssign, ast.BoolOp))
            and type(node.op) in COUNTED
            and not _text(node)
        ):
            yield node, _attribute(node, "op", COUNTED[type(node.op)]())
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, (ast.Not, ast.USub)):
            yield (
                node,
                _attribute(node, "op", ast.UAdd() if isinstance(node.op, ast.USub) else _Nothing()),
            )
        elif isinstance(node, ast.IfExp):
            yield node, _swap(node)
        elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
            yield node, _attribute(node, "value", not node.value)
        elif (
            isinstance(node, ast.Constant)
            and isinstance(node.value, (int, float))
            and not 0 < abs(node.value) <= TINY
        ):
            yield (
                node,
                _attribute(
                    node,
                    "value",
                    node.value + 1 if isinstance(node.value, int) else node.value * 1.5 or 1.0,
                ),
            )


def _without_meaning(tree: ast.AST) -> Iterator[ast.AST]:
    """Annotations, decorators, slices of types and the arguments of what raises: no value
    depends on them.
    """
    for node in ast.walk(tree):
        if isinstance(node, (ast.FunctionDef, ast.ClassDef)):
            yield from node.decorator_list
        if isinstance(node, ast.FunctionDef) and node.returns is not None:
            yield node.returns
        if isinstance(node, (ast.arg, ast.AnnAssign)) and node.annotation is not None:
            yield node.annotation
        if isinstance(node, (ast.Raise, ast.Assert, ast.FormattedValue)):
            yield node
        if (
            isinstance(node, ast.Call)
            and isinstance(node.func, ast.Name)
            and node.func.id in ("NewType", "TypeVar", "zip")
        ):
            yield node


class _Nothing(ast.Not):
    """Not, twice: the operand as it is."""


def _attribute(node: Any, name: str, value: object) -> Callable[[], None]:
    def change() -> None:
        if isinstance(value, _Nothing):
            node.operand = ast.UnaryOp(ast.Not(), node.operand)
        else:
            setattr(node, name, value)

    return change


def _setter(row: list[Any], i: int, value: object) -> Callable[[], None]:
    def change() -> None:
        row[i] = value

    return change


def _swap(node: ast.IfExp) -> Callable[[], None]:
    def change() -> None:
        node.body, node.orelse = node.orelse, node.body

    return change


def _text(node: ast.BinOp | ast.AugAssign | ast.BoolOp) -> bool:
    """Whether texts or types are joined, or places of files."""
    parts = (
        [node.left, node.right]
        if isinstance(node, ast.BinOp)
        else [node.value]
        if isinstance(node, ast.AugAssign)
        else []
    )
    return any(
        isinstance(p, ast.JoinedStr) or (isinstance(p, ast.Constant) and isinstance(p.value, str))
        for p in parts
    )


class _Finder(importlib.abc.MetaPathFinder):
    """Finds the mutant in the place of its module."""

    def __init__(self, module: str, number: int) -> None:
        self.module, self.number = module, number

    def find_spec(
        self, name: str, path: Sequence[str] | None, target: object = None
    ) -> ModuleSpec | None:
        if name != self.module:
            return None
        file = file_of(name)
        inside = [str(file.parent)] if file.name == "__init__.py" else None
        loader = _Loader(name, str(file), self.number)
        return importlib.util.spec_from_file_location(
            name, file, loader=loader, submodule_search_locations=inside
        )


class _Loader(SourceFileLoader):
    """Gives the code of the mutant."""

    def __init__(self, name: str, path: str, number: int) -> None:
        super().__init__(name, path)
        self._number = number

    def get_code(self, fullname: str) -> CodeType:
        return mutated(fullname, self._number)


if VARIABLE in os.environ:
    _module, _number = os.environ[VARIABLE].split()
    sys.meta_path.insert(0, _Finder(_module, int(_number)))
