"""How near the cursor has to be, in drawing units: the one table of snap distances."""

LINE = 4.0  # to a line beside it: a kerb, a limit of land, square across
LEVEL = 7.0  # to a named level, or a place along a pipe
PLACE = 9.0  # to a place in plan: an end, a crossing, a centre, a low point, the last offset
PIPE = 40.0  # to a pipe whose levels are asked for
STRAY = 4.0  # a press that strays no farther is a click
