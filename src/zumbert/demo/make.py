"""Makes the demo's open-format files: `python -m zumbert.demo.make`. The same script gives the same
bytes.

Quillerby Rise climbs from Ashlar Beck, Tansymoor Lane leaves it to the left. All of it is made up.
"""

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from zumbert.demo.site import RISE, RISE_PVIS, design_surface, lane, lane_pvis, terrain
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Arc, Array, Straight
from zumbert.geometry.profile import Profile, Pvi

FILES = Path(__file__).parent / "files"


STANDARD = """name = "Estate roads"

[pipes]
cover_min = 0.9
cover_max = 3.0
slope_max = 0.08
spacing_max = 90

[pipes.slope_min]
150 = 0.01
225 = 0.006
900 = 0.004

[pipes.drop_min]
15 = 0.02
45 = 0.03
180 = 0.05
"""
TRENCH = """name = "Type B, upright, then sloped"
working_space = 0.5
base_thickness = 0.2
spacing = 2.5
upper = "existing"

[[sizes]]
dn = 300
bedding = 0.10
width = 1.0
vertical_height = 0.9
batter = 0.5
surround = 0.15
support_above = 1.5

[[sizes]]
dn = 600
bedding = 0.10
width = 1.1
vertical_height = 0.9
batter = 0.5
surround = 0.15
support_above = 1.5
"""
# what stands beside the roads: name, structure, kind, and its corners about a middle, turned (m,
# radians)
BUILT = (
    ("Hall", "S13", "roof", (1796.0, 936.0), (38.0, 25.0), -0.27),
    ("Classrooms", "S12", "roof", (1752.0, 944.0), (20.0, 10.0), -0.27),
    ("Playground", "S17", "drive", (1535.0, 1004.0), (30.0, 20.0), 0.3),
)
RAIN = """name = "Quillerby, two years"
years = 2
climate = 1.0
entry = 5

[formula]
a = 1200
b = 10
c = 0.8
m = 0.2
"""


def landxml() -> str:
    """Roads and surfaces as LandXML 1.2; a point is written northing, easting, level."""
    parts = [
        '<?xml version="1.0" encoding="UTF-8"?>\n<LandXML '
        'xmlns="http://www.landxml.org/schema/LandXML-1.2" '
        'version="1.2" date="2026-01-05" time="08:00:00">\n<Units><Metric linearUnit="meter" '
        'areaUnit="squareMeter" '
        'volumeUnit="cubicMeter" temperatureUnit="celsius" pressureUnit="milliBars" '
        'diameterUnit="millimeter"/></Units>\n'
        '<Project name="Quillerby School access"/>\n<Alignments>\n',
        *_road("Quillerby Rise", RISE, RISE_PVIS),
        *_road("Tansymoor Lane", lane(), lane_pvis()),
        "</Alignments>\n<Surfaces>\n",
        *_surface("Existing ground", *terrain()),
        *_surface("Road design", *design_surface()),
        "</Surfaces>\n</LandXML>\n",
    ]
    return "".join(parts)


def _road(name: str, elements: list[Straight | Arc], pvis: tuple[Pvi, ...]) -> Iterator[str]:
    length = sum(e.length for e in elements)
    yield f'<Alignment name="{name}" length="{length:.6f}" staStart="0.000000">\n<CoordGeom>\n'
    for e in elements:
        ends = f"<Start>{e.y0:.6f} {e.x0:.6f}</Start>", f"<End>{e.y1:.6f} {e.x1:.6f}</End>"
        if isinstance(e, Straight):
            yield f'<Line length="{e.length:.6f}">{"".join(ends)}</Line>\n'
        else:
            rot = "cw" if e.clockwise else "ccw"
            centre = f"<Center>{e.yc:.6f} {e.xc:.6f}</Center>"
            yield (
                f'<Curve rot="{rot}" radius="{e.radius:.6f}" '
                f'length="{e.length:.6f}">{ends[0]}{centre}{ends[1]}</Curve>\n'
            )
    yield f'</CoordGeom>\n<Profile name="{name}">\n<ProfAlign name="{name} design">\n'
    for p in pvis:
        if p.length:
            yield f'<ParaCurve length="{p.length:.3f}">{p.chainage:.3f} {p.level:.3f}</ParaCurve>\n'
        else:
            yield f"<PVI>{p.chainage:.3f} {p.level:.3f}</PVI>\n"
    yield "</ProfAlign>\n</Profile>\n</Alignment>\n"


def _surface(name: str, points: Array, faces: np.ndarray) -> Iterator[str]:
    yield f'<Surface name="{name}">\n<Definition surfType="TIN">\n<Pnts>\n'
    for i, (x, y, z) in enumerate(points.tolist(), 1):
        yield f'<P id="{i}">{y:.3f} {x:.3f} {z:.3f}</P>\n'
    yield "</Pnts>\n<Faces>\n"
    for a, b, c in (faces + 1).tolist():
        yield f"<F>{a} {b} {c}</F>\n"
    yield "</Faces>\n</Definition>\n</Surface>\n"


MANHOLES = (6, 28, 66, 96, 131, 160, 195, 230, 268, 305, 345, 383, 412)  # chainages, m
DEPTHS = (
    1.57,
    1.83,
    1.94,
    1.86,
    1.28,
    1.399,
    1.45,
    1.50,
    1.55,
    1.60,
    1.62,
    1.55,
    1.45,
)  # rim to outlet, m
OFFSET, GULLY = 1.10, 2.80  # m
# manholes whose leads come in as deep as the main: nearly square to it, for the wall between them
SQUARE = (3, 4, 5, 6, 11)
LEADS = 11  # manholes from S2 on that take a pair of gullies
HEADWALL = (1374.4, 911.5)


def _rim(ch: float, off: float) -> float:
    """The design surface near a road's centre: profile and crossfall."""
    return float(Profile(RISE_PVIS).level(ch)) - 0.025 * abs(off)


def structures_csv() -> str:
    """Manholes, gullies, a headwall at the beck and a short existing pipe's ends."""
    rows = ["label,type,alignment,chainage,offset,x,y,rim,service,status,network"]
    rows.append(f"HW1,headwall,,,,{HEADWALL[0]:.3f},{HEADWALL[1]:.3f},,storm,proposed,Storm")
    for i, ch in enumerate(MANHOLES):
        rows.append(
            f"S{i + 1},{_manhole(i)},Quillerby Rise,{ch:.3f},{OFFSET:.3f},,,,storm,proposed,Storm"
        )
    for i in range(1, 1 + LEADS):
        for side, letter in ((-1, "L"), (1, "R")):
            at = f"{MANHOLES[i] + _ahead(i):.3f},{side * GULLY:.3f}"
            rows.append(f"G{i}{letter},gully-450,Quillerby Rise,{at},,,,storm,proposed,Storm")
    rows.append("EX1,manhole-1200,,,,1412.000,858.000,40.180,storm,existing,Storm existing")
    rows.append("EX2,headwall,,,,1374.000,868.000,,storm,existing,Storm existing")
    return "\n".join(rows) + "\n"


def _ahead(i: int) -> float:
    """How far (m) up the road from manhole i its gullies stand."""
    return 1.6 if i in SQUARE else 4.0


def _manhole(i: int) -> str:
    return "manhole-1200" if i < 4 else "manhole-1050"


def _size(i: int) -> int:
    """DN of the outlet of manhole i (0: S1); that of S9 is smaller than its inlet, on purpose."""
    return 375 if i < 4 else 225 if i == 8 else 300


def pipes_csv() -> str:
    """The main run, the gullies' leads and the existing pipe. Four faults are on purpose, each
    said where it is made.
    """
    rows = ["label,from,to,size,diameter_mm,wall_mm,invert_up,invert_down"]
    out = [_rim(ch, OFFSET) - depth for ch, depth in zip(MANHOLES, DEPTHS, strict=True)]
    rows.append(f"P1,S1,HW1,375,,,{out[0]:.3f},{out[0] - 0.80:.3f}")
    for i in range(1, len(MANHOLES)):
        above = (_size(i - 1) - _size(i)) / 1000
        drop = max(0.035, above)  # crowns line up
        drop = {4: 0.59, 5: 0.025, 6: 0.005}.get(
            i, drop
        )  # P5 lies under the dip of the road; P7 drops too little
        rows.append(f"P{i + 1},S{i + 1},S{i},{_size(i)},,,{out[i]:.3f},{out[i - 1] + drop:.3f}")
    n = len(MANHOLES) + 1
    for i in range(1, 1 + LEADS):
        for side, letter in ((-1, "L"), (1, "R")):
            up, down = _lead(i, out[i], side)
            if (i, letter) == (6, "R"):
                up, down = down - 0.040, down  # falls the wrong way, on purpose
            rows.append(f"P{n},G{i}{letter},S{i + 1},150,,,{up:.3f},{down:.3f}")
            n += 1
    rows.append("EXP1,EX1,EX2,,375,55,38.800,38.180")
    return "\n".join(rows) + "\n"


def _lead(i: int, outlet: float, side: int) -> tuple[float, float]:
    """Inverts of a lead: under its cover at the gully, above the outlet's crown at the manhole,
    1 to 8 % between.
    """
    rim, gully = _rim(MANHOLES[i], OFFSET), _rim(MANHOLES[i] + _ahead(i), GULLY)
    down = min(rim - 1.11, outlet + 0.56)
    down = max(down, outlet + _size(i) / 1000 - 0.15 + 0.005)
    length = float(np.hypot(_ahead(i), GULLY - side * OFFSET))
    deep = (
        1.08 if i == 4 else 1.09
    )  # S5 is shallow: its leads' crowns have to stay over the outlet's
    down = min(down, gully - deep - 0.012 * length)
    return min(gully - deep, down + 0.075 * length), down


RESERVE, MAIN = (
    9.0,
    6.5,
)  # m: half-width of the road reserve, offset of the water main beside the road


def land_csv() -> str:
    """The road reserve of both roads, and the easement down to the beck."""
    rise, side_road = Alignment(RISE), Alignment(lane())
    start, end = rise.point(np.array([0.0, 10.0]), np.array([0.0, 0.0]))
    rows = ["name,kind,x,y"]
    for name, line in (
        ("Road reserve Quillerby Rise", rise),
        ("Road reserve Tansymoor Lane", side_road),
    ):
        ch = line.polyline(20.0)
        if line is side_road:  # it begins at the edge of the other
            ch = np.append(RESERVE, ch[ch > RESERVE])
        for c, side in ((ch, -RESERVE), (ch[::-1], RESERVE)):
            rows += [
                f"{name},reserve,{x:.3f},{y:.3f}"
                for x, y in np.column_stack(line.point(c, side)).tolist()
            ]
    along = np.array([start[1] - start[0], end[1] - end[0]])
    along /= np.hypot(*along)
    across, beck = np.array([-along[1], along[0]]), np.array(HEADWALL) - 6.0 * along
    first = np.array([start[1], end[1]])
    corners = (first - 7 * across, first + 7 * across, beck + 7 * across, beck - 7 * across)
    rows += [f"Easement to Ashlar Beck,easement,{x:.3f},{y:.3f}" for x, y in corners]
    return "\n".join(rows) + "\n"


def services_csv() -> str:
    """A water main in the verge and a power duct across the road, both clear of what is laid."""
    rise = Alignment(RISE)
    profile = Profile(RISE_PVIS)
    rows = ["label,kind,size,clearance,x,y,level"]
    for i, ch in enumerate(np.arange(20.0, 411.0, 30.0).tolist()):
        x, y = (float(v) for v in rise.point(ch, MAIN))
        size = "0.16,0.3" if i == 0 else ","
        rows.append(f"W1,water,{size},{x:.3f},{y:.3f},{float(profile.level(ch)) - 0.95:.3f}")
    for i, off in enumerate((-8.0, 8.0)):
        x, y = (float(v) for v in rise.point(250.0, off))
        size = "0.11,0.3" if i == 0 else ","
        rows.append(f"E1,power,{size},{x:.3f},{y:.3f},{float(profile.level(250.0)) - 0.45:.3f}")
    return "\n".join(rows) + "\n"


def _corners(
    middle: tuple[float, float], size: tuple[float, float], turn: float
) -> list[tuple[float, float]]:
    c, s = float(np.cos(turn)), float(np.sin(turn))
    signs = ((-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5))
    return [
        (
            middle[0] + c * a * size[0] - s * b * size[1],
            middle[1] + s * a * size[0] + c * b * size[1],
        )
        for a, b in signs
    ]


def areas_csv() -> str:
    """Roofs and a yard of the school, a row a corner."""
    rows = ["name,structure,kind,area_m2,coefficient,entry_min,x,y"]
    for name, structure, kind, middle, size, turn in BUILT:
        rows += [
            f"{name},{structure},{kind},,,,{x:.3f},{y:.3f}" for x, y in _corners(middle, size, turn)
        ]
    return "\n".join(rows) + "\n"


def site_dxf() -> str:
    """The same outlines as a drawing, a layer a kind."""
    rows = [
        "0",
        "SECTION",
        "2",
        "HEADER",
        "9",
        "$ACADVER",
        "1",
        "AC1009",
        "9",
        "$INSUNITS",
        "70",
        "6",
        "0",
        "ENDSEC",
    ]
    rows += ["0", "SECTION", "2", "ENTITIES"]
    for _, _, kind, middle, size, turn in BUILT:
        rows += ["0", "POLYLINE", "8", f"SITE-{kind.upper()}", "66", "1", "70", "1"]
        for x, y in _corners(middle, size, turn):
            rows += ["0", "VERTEX", "8", f"SITE-{kind.upper()}", "10", f"{x:.3f}", "20", f"{y:.3f}"]
        rows += ["0", "SEQEND"]
    return "\n".join([*rows, "0", "ENDSEC", "0", "EOF"]) + "\n"


def files() -> dict[str, str]:
    """Each file of the demo by name."""
    return {
        "quillerby.xml": landxml(),
        "structures.csv": structures_csv(),
        "pipes.csv": pipes_csv(),
        "land.csv": land_csv(),
        "services.csv": services_csv(),
        "standard.toml": STANDARD,
        "trench.toml": TRENCH,
        "areas.csv": areas_csv(),
        "rain.toml": RAIN,
        "site.dxf": site_dxf(),
    }


def main() -> None:
    """Writes the files into the package."""
    FILES.mkdir(exist_ok=True)
    for name, text in files().items():
        (FILES / name).write_bytes(text.encode())


if __name__ == "__main__":
    main()
