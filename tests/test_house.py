"""The house itself: imports, sizes, names and docstrings, and that the guide to changes names
what is there.
"""

import ast
import re
import subprocess
import sys
from collections import Counter
from functools import cache
from pathlib import Path

import pytest
from PySide6.QtCore import QAbstractTableModel, QSortFilterProxyModel
from PySide6.QtWidgets import QDialog, QStyledItemDelegate

from zumbert.app.guard import is_handler
from zumbert.model.library import SIZE_FIELDS, TYPE_FIELDS

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src"
MODULES = {
    ".".join(p.relative_to(SOURCE).with_suffix("").parts).removesuffix(".__init__"): p
    for p in SOURCE.rglob("*.py")
}  # fmt: skip
MOST = 400  # lines of a module


@cache
def tree(name):
    """What a module says."""
    return ast.parse(MODULES[name].read_text(encoding="utf-8"))


def imports(name):
    """Every module that one imports: at its top, in its functions, and for its types alone."""
    found = set()
    for node in ast.walk(tree(name)):
        if isinstance(node, ast.Import):
            found |= {a.name for a in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found |= {
                f"{node.module}.{a.name}" if f"{node.module}.{a.name}" in MODULES else node.module
                for a in node.names
            }
    return (found & MODULES.keys()) - {name}


def circle(graph):
    """A circle of imports, or None: what is left after all that lead nowhere are taken away
    again and again.
    """
    left = {k: set(v) for k, v in graph.items()}
    while True:
        ends = {k for k, v in left.items() if not v}
        if not ends:
            break
        left = {k: v - ends for k, v in left.items() if k not in ends}
    if not left:
        return None
    way = [next(iter(left))]
    while True:
        following = sorted(left[way[-1]])[0]
        if following in way:
            return way[way.index(following) :]
        way.append(following)


def test_no_imports_go_round_even_in_functions():
    assert circle({name: imports(name) for name in MODULES}) is None


def test_a_circle_would_be_found():
    assert circle({"a": {"b"}, "b": {"c"}, "c": {"b"}, "d": set()}) == ["b", "c"]
    assert circle({"a": {"b"}, "b": set()}) is None


def test_no_module_is_long():
    own = [p for folder in ("tests", "benchmarks", "docs") for p in (ROOT / folder).rglob("*.py")]
    long = {
        str(path): n
        for path in (*MODULES.values(), *own)
        if (n := len(path.read_text(encoding="utf-8").splitlines())) > MOST
    }
    assert long == {}


def test_no_class_has_the_name_of_another():
    names = Counter(
        n.name for name in MODULES for n in tree(name).body if isinstance(n, ast.ClassDef)
    )
    assert [n for n, count in names.items() if count > 1 and not n.startswith("_")] == []


def test_nothing_private_is_imported():
    private = [
        f"{name}: {a.name}"
        for name in MODULES
        for node in ast.walk(tree(name))
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("zumbert")
        for a in node.names
        if a.name.startswith("_")
    ]
    assert [p for p in private if "__version__" not in p] == []


def test_what_others_call_has_a_docstring():
    """What stands in for something of a base, of ours or of Qt's, has that one's words."""
    known = {
        n
        for qt in (QDialog, QAbstractTableModel, QSortFilterProxyModel, QStyledItemDelegate)
        for n in dir(qt)
    }
    functions = [
        (name, scope, f)
        for name in MODULES
        for scope in ast.walk(tree(name))
        if isinstance(scope, (ast.Module, ast.ClassDef))
        for f in scope.body
        if isinstance(f, ast.FunctionDef)
    ]
    known |= {f.name for _, _, f in functions if ast.get_docstring(f)}
    for module in map(tree, MODULES):  # and attributes of classes
        for scope in ast.walk(module):
            for node in scope.body if isinstance(scope, ast.ClassDef) else ():
                one = [node.target] if isinstance(node, ast.AnnAssign) else []
                targets = node.targets if isinstance(node, ast.Assign) else one
                known |= {t.id for t in targets if isinstance(t, ast.Name)}
    bare = [
        f"{name}: {f.name}"
        for name, scope, f in functions
        if not f.name.startswith("_")
        and not ast.get_docstring(f)
        and (isinstance(scope, ast.Module) or f.name not in known)
    ]
    assert bare == []


def test_what_handles_events_is_guarded():
    bare = [
        f"{name}: {c.name}"
        for name in MODULES
        for c in ast.walk(tree(name))
        if isinstance(c, ast.ClassDef)
        if any(isinstance(f, ast.FunctionDef) and is_handler(f.name) for f in c.body)
        and not any(isinstance(d, ast.Name) and d.id == "guarded" for d in c.decorator_list)
    ]
    assert bare == []


def test_the_guide_to_changes_names_what_is_there():
    text = (ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8")
    rows = [
        line
        for line in text.splitlines()
        if line.startswith("| ") and not line.startswith(("| to ", "|---"))
    ]
    assert len(rows) >= 20
    sources = "\n".join(p.read_text(encoding="utf-8") for p in MODULES.values())
    for row in rows:
        cells = row.split("|")
        files = re.findall(r"`([\w/]+\.py|[\w/]+/)`", cells[2])
        assert 1 <= len(files) <= 2, row
        for file in files:
            assert (SOURCE / "zumbert" / file).exists(), f"{file} in: {row}"
        for name in re.findall(r"`([A-Z][A-Za-z_]+|_[A-Z_]+)`", cells[2]):
            assert re.search(rf"\b{name}\b", sources), f"{name} in: {row}"


@pytest.mark.parametrize("name", sorted(n for n in MODULES if n.startswith("zumbert.edits")))
def test_edits_say_what_they_refuse(name):
    """Every public edit that raises says so."""
    for f in tree(name).body:
        if isinstance(f, ast.FunctionDef) and not f.name.startswith("_"):
            raises = any(isinstance(n, ast.Raise) and n.exc is not None for n in ast.walk(f))
            assert not raises or re.search("[Rr]aises|EditError", ast.get_docstring(f) or ""), (
                f"{name}.{f.name}"
            )


def test_heads_of_columns_are_words():
    """Never the name of a class."""
    heads = [f.head for f in (*TYPE_FIELDS, *SIZE_FIELDS)]
    assert [h for h in heads if re.search(r"[a-z][A-Z]|_", h)] == []


# -- words ---------------------------------------------------------------------------------------

WORDS = re.findall(r"^\| [^|]+ \| ([^|]+) \|$", (ROOT / "docs/words.md").read_text(), re.M)[1:]
SLIPS = re.compile(rf"\b({'|'.join(w.strip() for line in WORDS for w in line.split(','))})\b", re.I)
TEXTS = [ROOT / "README.md", ROOT / "CHANGELOG.md", ROOT / "CONTRIBUTING.md"]
TEXTS += [p for d in ("docs", "src") for p in (ROOT / d).rglob("*.md") if p.name != "words.md"]


def written(name):
    """What a module says to its users: its texts, without docstrings."""
    docs = {
        id(n.body[0].value)
        for n in ast.walk(tree(name))
        if isinstance(n, (ast.Module, ast.ClassDef, ast.FunctionDef))
        and n.body
        and isinstance(n.body[0], ast.Expr)
    }
    return [
        n.value
        for n in ast.walk(tree(name))
        if isinstance(n, ast.Constant) and isinstance(n.value, str) and id(n) not in docs
    ]


def test_words_that_slip_in_are_found():
    assert SLIPS.search("Read it anew.") and SLIPS.search("Abort") and len(WORDS) > 6


@pytest.mark.parametrize("path", TEXTS, ids=lambda p: str(p.relative_to(ROOT)))
def test_documents_use_the_words_of_the_list(path):
    prose = re.sub(r"`[^`]*`", "", path.read_text(encoding="utf-8"))
    assert [m.group() for m in SLIPS.finditer(prose)] == []


@pytest.mark.parametrize("name", MODULES)
def test_texts_use_the_words_of_the_list(name):
    said = [t for t in written(name) if " " in t and SLIPS.search(t)]
    assert said == []


@pytest.mark.parametrize("name", MODULES)
def test_docstrings_name_what_they_describe(name):
    """None begins with "What": a noun, or a verb, says it."""
    docs = [
        ast.get_docstring(n) or ""
        for n in ast.walk(tree(name))
        if isinstance(n, (ast.Module, ast.ClassDef, ast.FunctionDef))
    ]
    assert [d for d in docs if d.startswith("What ")] == []


def test_a_stage_is_imported_when_it_is_first_shown():
    """The window begins with the entries of the stages alone."""
    ask = (
        "import sys, zumbert.app.window\n"
        "print([m for m in sys.modules if m.startswith('zumbert.app.stages.')"
        " and m.count('.') > 3 and not m.endswith('.stage')])"
    )
    made = subprocess.run([sys.executable, "-c", ask], capture_output=True, text=True, check=True)
    assert made.stdout.strip() == "[]"
