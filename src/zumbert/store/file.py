"""Our file: a zip with project.json and one array file a surface, written whole or not at all."""

import io
import math
import os
import shutil
import zipfile
import zlib
from contextlib import suppress
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import Any, NamedTuple, TypeVar

import msgspec
import numpy as np
from msgspec.structs import replace

from zumbert.errors import StoreError
from zumbert.geometry.placing import Placing
from zumbert.log import logger
from zumbert.model.background import Background, DrawnPlace, DrawnText
from zumbert.model.ids import AttachmentId, BackgroundId, SurfaceId
from zumbert.model.note import Attachment
from zumbert.model.project import Project
from zumbert.model.surface import Role, Surface
from zumbert.store.migrations import migrated
from zumbert.store.sound import faults

FORMAT = 9
LARGEST = 2 << 30  # bytes unpacked: more is no project of ours
LARGEST_ARRAYS = 1 << 30  # bytes of the arrays of one surface or drawing
FIXED_TIME = (2020, 1, 1, 0, 0, 0)  # the same project gives the same bytes


_Entry = TypeVar("_Entry", bound=msgspec.Struct)


class _SurfaceEntry(msgspec.Struct, frozen=True, kw_only=True):
    id: SurfaceId
    name: str
    role: Role
    shown: bool = True
    strength: float = 1.0
    placing: Placing = Placing()


class _BackgroundEntry(msgspec.Struct, frozen=True, kw_only=True):
    id: BackgroundId
    name: str
    layers: tuple[str, ...]
    off: frozenset[str]
    metres: float
    shown: bool = True
    strength: float = 1.0
    source: str | None = None
    stamp: str | None = None
    places: tuple[DrawnPlace, ...] = ()
    texts: tuple[DrawnText, ...] = ()
    placing: Placing = Placing()


class _AttachmentEntry(msgspec.Struct, frozen=True, kw_only=True):
    id: AttachmentId
    name: str
    note: str
    path: str | None
    inside: bool  # whether the file is a member of the zip


class _Document(msgspec.Struct, frozen=True, kw_only=True):
    format: int
    surfaces: tuple[_SurfaceEntry, ...]
    backgrounds: tuple[_BackgroundEntry, ...] = ()
    attachments: tuple[_AttachmentEntry, ...] = ()
    project: Project  # without what has members of its own: surfaces, backgrounds, attachments


class Stamp(NamedTuple):
    """Identifies a version of a file: time of writing (ns), size and inode."""

    written: int
    size: int
    number: int


def stamp(path: str | os.PathLike[str]) -> Stamp | None:
    """The stamp of a file as it is on disk; None where there is none."""
    try:
        found = os.stat(path)
    except OSError:
        return None
    return Stamp(found.st_mtime_ns, found.st_size, found.st_ino)


def save(project: Project, path: str | os.PathLike[str], backup: bool = True) -> None:
    """Writes a project to a path: to a temporary file beside it, flushed, then renamed over. Raises
    StoreError.

    The file before it is kept as NAME.bak beside it, unless `backup` is off. It always writes and
    takes no lock.

    Until the rename the file before it is untouched, so a crash or a full disk loses nothing.
    """
    target = Path(os.path.realpath(path))
    temporary = None
    try:
        with NamedTemporaryFile(dir=target.parent, prefix=f".{target.name}.", delete=False) as f:
            temporary = f.name
            _write(project, f)
            f.flush()
            os.fsync(f.fileno())
        os.chmod(temporary, target.stat().st_mode & 0o777 if target.exists() else 0o666 & ~_umask())
        if backup and target.exists():
            _keep_copy(target)
        os.replace(temporary, target)
        _flush_folder(target.parent)
    except BaseException as e:
        if temporary:
            with suppress(OSError):
                os.unlink(temporary)
        if isinstance(e, OSError):
            raise StoreError(
                f"{path} could not be written: {e.strerror or e}. Choose another folder or "
                "make room."
            ) from e
        # whatever it is: the work is still there, and that has to be told
        if isinstance(e, Exception):
            logger.exception("Saving failed")
            raise StoreError(
                f"{path} could not be written: {e}. The file before it is untouched."
            ) from e
        raise


def _keep_copy(target: Path) -> None:
    """The file before as NAME.bak: a second name for it where the file system can, else a copy;
    never without either.

    The spare name is made anew each time, since a kill may have left it: writing into one that is
    left would write into the copy itself, for both may be one file, and renaming one name of a file
    to another of it does nothing.
    """
    copy, spare = (
        target.with_name(f"{target.name}.bak"),
        target.with_name(f".{target.name}.bak-new"),
    )
    spare.unlink(missing_ok=True)
    try:
        os.link(target, spare)
    except OSError:
        shutil.copyfile(target, spare)
    os.replace(spare, copy)
    spare.unlink(missing_ok=True)


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _flush_folder(folder: Path) -> None:
    fd = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(fd)
    finally:
        os.close(fd)


def _write(project: Project, f: Any) -> None:
    bare = replace(project, surfaces={}, backgrounds={}, attachments={})
    document = _Document(
        format=FORMAT,
        surfaces=tuple(_told(_SurfaceEntry, s) for s in project.surfaces.values()),
        backgrounds=tuple(_told(_BackgroundEntry, b) for b in project.backgrounds.values()),
        attachments=tuple(
            _AttachmentEntry(
                id=a.id, name=a.name, note=a.note, path=a.path, inside=a.data is not None
            )
            for a in project.attachments.values()
        ),
        project=bare,
    )
    with zipfile.ZipFile(f, "w", zipfile.ZIP_STORED) as z:
        info = zipfile.ZipInfo("project.json", FIXED_TIME)
        info.compress_type = zipfile.ZIP_DEFLATED
        z.writestr(info, msgspec.json.format(msgspec.json.encode(_ordered(document)), indent=1))
        for surface in project.surfaces.values():
            arrays = _arrays(
                vertices=(surface.vertices, np.float64), faces=(surface.faces, np.int32)
            )
            z.writestr(zipfile.ZipInfo(f"surfaces/{surface.id}.npz", FIXED_TIME), arrays)
        for b in project.backgrounds.values():
            centres = np.zeros((0, 2)) if b.centres is None else b.centres
            arrays = _arrays(
                segments=(b.segments, np.float64),
                layer=(b.layer, np.int32),
                centres=(centres, np.float64),
            )
            z.writestr(zipfile.ZipInfo(f"backgrounds/{b.id}.npz", FIXED_TIME), arrays)
        for a in project.attachments.values():
            if a.data is not None:
                z.writestr(zipfile.ZipInfo(f"attachments/{a.id}", FIXED_TIME), a.data)


def _ordered(document: _Document) -> dict[str, Any]:
    """The document as plain values with its sets sorted: their own order is another on every
    run.
    """
    plain: dict[str, Any] = msgspec.to_builtins(document)
    for records in (plain["project"].get("roads", {}), plain["project"].get("runs", {})):
        for record in records.values():
            record.get("without", []).sort()
    for b in plain["backgrounds"]:
        b["off"].sort()
    return plain


def _told(kind: type[_Entry], record: Any) -> _Entry:
    """The fields of a record that its entry tells; its arrays are members of their own."""
    return kind(**{name: getattr(record, name) for name in kind.__struct_fields__})


def _arrays(**arrays: tuple[Any, Any]) -> bytes:
    out = io.BytesIO()
    plain: dict[str, Any] = {
        name: np.ascontiguousarray(a, kind) for name, (a, kind) in arrays.items()
    }
    np.savez(out, **plain)
    return out.getvalue()


def load(path: str | os.PathLike[str]) -> Project:
    """Reads a project. Raises StoreError with a sentence for a file that is missing, broken or
    not ours.
    """
    try:
        with zipfile.ZipFile(path) as z:
            if sum(i.file_size for i in z.infolist()) > LARGEST:
                raise StoreError(f"{path} unpacks to more than 2 GiB: it is no project of Zumbert.")
            return _read(z, path)
    except FileNotFoundError as e:
        raise StoreError(f"{path} does not exist: check the name.") from e
    except zipfile.BadZipFile as e:
        raise StoreError(
            f"{path} is not a project of Zumbert, or it is broken: open a copy of it."
        ) from e
    except zlib.error as e:
        raise StoreError(f"{path} is broken: {e}. Open a copy of it.") from e
    except (OSError, EOFError, NotImplementedError, RuntimeError) as e:
        raise StoreError(f"{path} could not be read: {e}.") from e


def _read(z: zipfile.ZipFile, path: Any) -> Project:
    try:
        raw = z.read("project.json")
        number = msgspec.json.decode(raw, type=dict[str, Any]).get("format")
        if isinstance(number, int) and number > FORMAT:
            raise StoreError(
                f"{path} was written by a newer Zumbert (format {number}): update Zumbert to "
                "open it."
            )
        if number != FORMAT:
            raw = msgspec.json.encode(migrated(msgspec.json.decode(raw, type=dict[str, Any])))
        document = msgspec.json.decode(raw, type=_Document)
        surfaces = {e.id: _surface(z, e) for e in document.surfaces}
        backgrounds = {e.id: _background(z, e) for e in document.backgrounds}
        attachments = {e.id: _attachment(z, e) for e in document.attachments}
    except KeyError as e:
        raise StoreError(f"{path} is not a project of Zumbert: {e.args[0]}.") from e
    except (msgspec.MsgspecError, ValueError, zipfile.BadZipFile, UnicodeDecodeError) as e:
        raise StoreError(f"{path} is broken: {e}. Open a copy of it.") from e
    project = replace(
        document.project, surfaces=surfaces, backgrounds=backgrounds, attachments=attachments
    )
    for fault in faults(project):
        raise StoreError(f"{path} is broken: {fault}. Open a copy of it.")
    return project


def _members(z: zipfile.ZipFile, name: str) -> dict[str, Any]:
    """The arrays of a member. Raises ValueError where they would unpack to more than a project
    holds, or where the shape that one tells is not that of its data: neither is unpacked.
    """
    with zipfile.ZipFile(io.BytesIO(z.read(name))) as inner:
        if sum(i.file_size for i in inner.infolist()) > LARGEST_ARRAYS:
            raise ValueError(f"{name} unpacks to more than 1 GiB")
        return {
            i.filename.removesuffix(".npy"): _array(inner.read(i), name) for i in inner.infolist()
        }


def _array(data: bytes, name: str) -> Any:
    f = io.BytesIO(data)
    version = np.lib.format.read_magic(f)
    head = (
        np.lib.format.read_array_header_1_0
        if version == (1, 0)
        else np.lib.format.read_array_header_2_0
    )
    shape, columns_first, kind = head(f)
    if kind.hasobject or math.prod(shape) * kind.itemsize != len(data) - f.tell():
        raise ValueError(f"{name} has an array that is not as large as it says")
    return np.frombuffer(data, kind, offset=f.tell()).reshape(
        shape, order="F" if columns_first else "C"
    )


def _surface(z: zipfile.ZipFile, entry: _SurfaceEntry) -> Surface:
    arrays = _members(z, f"surfaces/{entry.id}.npz")
    vertices, faces = arrays["vertices"], arrays["faces"]
    if vertices.ndim != 2 or vertices.shape[1] != 3 or faces.ndim != 2 or faces.shape[1] != 3:
        raise ValueError(f'surface "{entry.name}" has arrays of a wrong shape')
    if faces.size and (faces.min() < 0 or faces.max() >= len(vertices)):
        raise ValueError(f'surface "{entry.name}" has a face that names no vertex')
    return Surface(**msgspec.structs.asdict(entry), vertices=vertices, faces=faces)


def _background(z: zipfile.ZipFile, entry: _BackgroundEntry) -> Background:
    arrays = _members(z, f"backgrounds/{entry.id}.npz")
    segments, layer = arrays["segments"], arrays["layer"]
    centres = arrays.get("centres", np.zeros((0, 2)))
    if (
        segments.ndim != 2
        or segments.shape[1] != 4
        or layer.shape != (len(segments),)
        or centres.shape[1:] != (2,)
    ):
        raise ValueError(f'background "{entry.name}" has arrays of a wrong shape')
    if layer.size and (layer.min() < 0 or layer.max() >= len(entry.layers)):
        raise ValueError(f'background "{entry.name}" names a layer that is not there')
    return Background(
        **msgspec.structs.asdict(entry), segments=segments, layer=layer, centres=centres
    )


def _attachment(z: zipfile.ZipFile, entry: _AttachmentEntry) -> Attachment:
    data = z.read(f"attachments/{entry.id}") if entry.inside else None
    return Attachment(id=entry.id, name=entry.name, note=entry.note, path=entry.path, data=data)
