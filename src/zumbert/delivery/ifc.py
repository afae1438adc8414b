"""IFC 4: pipes, structures, services and surfaces as bodies with their data, at true
coordinates; by `ifcopenshell`.
"""

from typing import Any
from uuid import NAMESPACE_URL, uuid5

import numpy as np

from zumbert.delivery.gltf import origin_of, told
from zumbert.delivery.job import Job, Tell, quiet
from zumbert.drawing.solids import Solid, solids
from zumbert.drawing.style import colour
from zumbert.errors import ReadError
from zumbert.geometry.elements import Array
from zumbert.model.ids import PipeId, ServiceId, StructureId

# of chambers; the others are named by their object type
KINDS = {"manhole": "MANHOLE", "catchpit": "SUMP"}
CABLES = ("power", "telecom")
SYSTEMS = {"storm": "STORMWATER", "foul": "SEWAGE"}
DECIMALS = 4  # of metres


def ifc(job: Job, tell: Tell = quiet) -> bytes:
    """The project as an IFC 4 file in metres; the site stands at true coordinates, everything else
    is placed from it.

    Ids stay the same from one file to the next. Raises ReadError where the package for it is not
    installed.
    """
    try:
        import ifcopenshell
    except ImportError:
        raise ReadError(
            "IFC needs the package ifcopenshell, which is not installed: add it with pip "
            "install ifcopenshell."
        ) from None
    writer = _Writer(ifcopenshell, job)
    found = list(solids(job.facts))
    writer.begin(origin_of(found))
    for i, solid in enumerate(found):
        tell(i / len(found), "Writing IFC")
        writer.add(solid)
    writer.end()
    return str(writer.file.to_string()).encode()


class _Writer:
    """One file while it is written."""

    def __init__(self, library: Any, job: Job) -> None:
        self.library, self.job = library, job
        self.file: Any = library.file(schema="IFC4")
        self.made: dict[str, Any] = {}  # products by id
        self.by_system: dict[str, list[Any]] = {}
        self.by_material: dict[str, list[Any]] = {}
        self.looks: dict[str, Any] = {}
        self.origin = np.zeros(3)

    def new(self, kind: str, **values: Any) -> Any:
        """An entity."""
        return self.file.create_entity(kind, **values)

    def rooted(self, kind: str, key: str, **values: Any) -> Any:
        """An entity with an id of its own, which follows from the project's name and its key."""
        unique = uuid5(NAMESPACE_URL, f"zumbert:{self.job.project.name}:{kind}:{key}")
        return self.new(kind, GlobalId=self.library.guid.compress(unique.hex), **values)

    def begin(self, origin: Array) -> None:
        """Project, units, context and the site."""
        p, self.origin = self.job.project, origin
        units = [
            self.new("IfcSIUnit", UnitType=t, Name=n)
            for t, n in (
                ("LENGTHUNIT", "METRE"),
                ("AREAUNIT", "SQUARE_METRE"),
                ("VOLUMEUNIT", "CUBIC_METRE"),
                ("PLANEANGLEUNIT", "RADIAN"),
            )
        ]
        context = self.new(
            "IfcGeometricRepresentationContext",
            ContextType="Model",
            CoordinateSpaceDimension=3,
            Precision=1e-4,
            WorldCoordinateSystem=self.axes(np.zeros(3)),
        )
        self.body = self.new(
            "IfcGeometricRepresentationSubContext",
            ContextIdentifier="Body",
            ContextType="Model",
            ParentContext=context,
            TargetView="MODEL_VIEW",
        )
        self.project = self.rooted(
            "IfcProject",
            "project",
            Name=p.name,
            RepresentationContexts=[context],
            UnitsInContext=self.new("IfcUnitAssignment", Units=units),
        )
        if p.delivery.epsg is not None:
            crs = self.new("IfcProjectedCRS", Name=f"EPSG:{p.delivery.epsg}")
            self.new(
                "IfcMapConversion",
                SourceCRS=context,
                TargetCRS=crs,
                Eastings=0.0,
                Northings=0.0,
                OrthogonalHeight=0.0,
            )
        place = self.new("IfcLocalPlacement", RelativePlacement=self.axes(origin))
        self.site = self.rooted(
            "IfcSite", "site", Name=p.name, ObjectPlacement=place, CompositionType="ELEMENT"
        )
        self.rooted(
            "IfcRelAggregates", "site", RelatingObject=self.project, RelatedObjects=[self.site]
        )

    def axes(self, at: Array) -> Any:
        """Axes at a place, not turned."""
        return self.new(
            "IfcAxis2Placement3D", Location=self.new("IfcCartesianPoint", Coordinates=at.tolist())
        )

    def add(self, solid: Solid) -> None:
        """One thing with its body and its data."""
        name, values = told(self.job, solid)
        middle = np.round(solid.mesh.vertices.mean(axis=0), 3)
        points = np.round(solid.mesh.vertices - middle, DECIMALS)
        shape = self.new(
            "IfcTriangulatedFaceSet",
            Closed=solid.kind != "surface",
            CoordIndex=(solid.mesh.faces + 1).tolist(),
            Coordinates=self.new("IfcCartesianPointList3D", CoordList=points.tolist()),
        )
        self.new("IfcStyledItem", Item=shape, Styles=[self.look(solid.role)])
        form = self.new(
            "IfcShapeRepresentation",
            ContextOfItems=self.body,
            RepresentationIdentifier="Body",
            RepresentationType="Tessellation",
            Items=[shape],
        )
        place = self.new(
            "IfcLocalPlacement",
            PlacementRelTo=self.site.ObjectPlacement,
            RelativePlacement=self.axes(middle - self.origin),
        )
        kind, more = self.kind_of(solid)
        product = self.rooted(
            kind,
            solid.id,
            Name=name,
            ObjectPlacement=place,
            Representation=self.new("IfcProductDefinitionShape", Representations=[form]),
            **more,
        )
        self.made[solid.id] = product
        if values:
            self.data(product, solid.id, values)

    def kind_of(self, solid: Solid) -> tuple[str, dict[str, Any]]:
        """The IFC class of a thing, and its properties."""
        p = self.job.project
        if solid.kind == "surface":
            return "IfcGeographicElement", {"PredefinedType": "TERRAIN"}
        if solid.kind == "service":
            service = p.services[ServiceId(solid.id)]
            kind = "IfcCableSegment" if service.kind in CABLES else "IfcPipeSegment"
            return kind, {"ObjectType": service.kind, "PredefinedType": "USERDEFINED"}
        record = (
            p.pipes[PipeId(solid.id)]
            if solid.kind == "pipe"
            else p.structures[StructureId(solid.id)]
        )
        self.by_system.setdefault(record.network, []).append(solid.id)
        if solid.kind == "pipe":
            size = p.pipes[PipeId(solid.id)].size
            if isinstance(size, str):
                self.by_material.setdefault(p.sizes[size].material, []).append(solid.id)
            return "IfcPipeSegment", {"Tag": record.label, "PredefinedType": "RIGIDSEGMENT"}
        built = p.types[p.structures[StructureId(solid.id)].type]
        predefined = KINDS.get(built.kind, "USERDEFINED")
        return "IfcDistributionChamberElement", {
            "Tag": record.label,
            "ObjectType": built.name,
            "PredefinedType": predefined,
        }

    def data(self, product: Any, key: str, values: dict[str, Any]) -> None:
        """A set of properties; what has no value is left out."""
        properties = []
        for name, value in values.items():
            if value is None or value != value:
                continue
            measure = (
                "IfcBoolean"
                if isinstance(value, bool)
                else "IfcText"
                if isinstance(value, str)
                else "IfcReal"
            )
            wrapped = self.new(
                measure, wrappedValue=value if isinstance(value, (bool, str)) else float(value)
            )
            properties.append(self.new("IfcPropertySingleValue", Name=name, NominalValue=wrapped))
        if properties:
            group = self.rooted("IfcPropertySet", key, Name="Zumbert", HasProperties=properties)
            self.rooted(
                "IfcRelDefinesByProperties",
                key,
                RelatedObjects=[product],
                RelatingPropertyDefinition=group,
            )

    def look(self, role: str) -> Any:
        """The style of a role."""
        if role not in self.looks:
            code = colour(role, "colour")
            red, green, blue = (int(code[i : i + 2], 16) / 255 for i in (1, 3, 5))
            shading = self.new(
                "IfcSurfaceStyleShading",
                SurfaceColour=self.new("IfcColourRgb", Red=red, Green=green, Blue=blue),
            )
            self.looks[role] = self.new("IfcSurfaceStyle", Name=role, Side="BOTH", Styles=[shading])
        return self.looks[role]

    def end(self) -> None:
        """Where things belong: all in the site, structures and pipes in the systems of their
        networks, pipes to materials.
        """
        if not self.made:
            return
        self.rooted(
            "IfcRelContainedInSpatialStructure",
            "all",
            RelatedElements=list(self.made.values()),
            RelatingStructure=self.site,
        )
        for key, network in self.job.project.networks.items():
            keys = self.by_system.get(key)
            if keys:
                system = self.rooted(
                    "IfcDistributionSystem",
                    key,
                    Name=network.name,
                    PredefinedType=SYSTEMS[self.service(keys[0])],
                )
                self.rooted(
                    "IfcRelAssignsToGroup",
                    key,
                    RelatedObjects=[self.made[k] for k in keys],
                    RelatingGroup=system,
                )
                self.rooted(
                    "IfcRelServicesBuildings",
                    key,
                    RelatingSystem=system,
                    RelatedBuildings=[self.site],
                )
        for name, keys in self.by_material.items():
            material = self.new("IfcMaterial", Name=name)
            self.rooted(
                "IfcRelAssociatesMaterial",
                name,
                RelatedObjects=[self.made[k] for k in keys],
                RelatingMaterial=material,
            )

    def service(self, key: str) -> str:
        """The service of a structure or pipe."""
        p = self.job.project
        return (
            p.structures[StructureId(key)].service
            if key in p.structures
            else p.pipes[PipeId(key)].service
        )
