"""Identities: they never change, labels may."""

from typing import NewType

RoadId = NewType("RoadId", str)
BackgroundId = NewType("BackgroundId", str)
SurfaceId = NewType("SurfaceId", str)
LandId = NewType("LandId", str)
ServiceId = NewType("ServiceId", str)
SpotId = NewType("SpotId", str)
AttachmentId = NewType("AttachmentId", str)
AreaId = NewType("AreaId", str)
PinId = NewType("PinId", str)
RunId = NewType("RunId", str)
StructureId = NewType("StructureId", str)
PipeId = NewType("PipeId", str)
NetworkId = NewType("NetworkId", str)
StandardId = NewType("StandardId", str)
TrenchTypeId = NewType("TrenchTypeId", str)
SheetId = NewType("SheetId", str)
IssueId = NewType("IssueId", str)
TypeKey = NewType("TypeKey", str)  # a structure type of the catalogue, such as manhole-1200
SizeKey = NewType("SizeKey", str)  # a pipe size of the catalogue, such as 300
