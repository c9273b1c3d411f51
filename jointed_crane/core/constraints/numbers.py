"""Numbers that several kinds of constraints have."""

from jointed_crane.core.constraints.constraint import Number

TURN = Number("turn", "Offset turn", unit="deg", mirror="xy")
