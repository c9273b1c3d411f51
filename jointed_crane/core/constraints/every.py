"""Every kind of constraint by its name."""

from jointed_crane.core.constraints.along_path import AlongPath
from jointed_crane.core.constraints.between import Between
from jointed_crane.core.constraints.carry import Carry
from jointed_crane.core.constraints.constraint import WEIGHT, Constraint, Number
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.constraints.point_at import PointAt
from jointed_crane.core.constraints.reach import Reach
from jointed_crane.core.constraints.span import Span
from jointed_crane.core.constraints.stay_above import StayAbove

#: In the order in which they are offered.
KINDS: dict[str, type[Constraint]] = {
    vars(kind)["kind"]: kind for kind in (Reach, PointAt, Follow, Carry, Between, Span, AlongPath, StayAbove)
}

#: Every number of constraints by its name.
NUMBERS: dict[str, Number] = {
    number.name: number for number in (WEIGHT, *(number for kind in KINDS.values() for number in kind.NUMBERS))
}

__all__ = ["KINDS", "NUMBERS", "AlongPath", "Between", "Carry", "Follow", "PointAt", "Reach", "Span", "StayAbove"]
