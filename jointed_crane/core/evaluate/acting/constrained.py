"""The constraints of a plan at work: what they make of the parts of a wave, in the order in which they act."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.placements import PlacedParts
from jointed_crane.core.evaluate.acting.chains import Chains
from jointed_crane.core.evaluate.acting.constraint_input import GivenTo
from jointed_crane.core.evaluate.acting.goals import Moment
from jointed_crane.core.evaluate.packing.constraint_columns import Acting
from jointed_crane.core.evaluate.packing.plan import Wave
from jointed_crane.core.evaluate.placement import Local
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.fields import Matrix, matrices_of_rows, product, put_column, put_matrix

Floats = npt.NDArray[np.float64]


@dataclass
class Constraints:
    """The constraints of a plan over some frames."""

    moment: Moment

    @cached_property
    def chains(self) -> Chains:
        """Those that turn joints before their wave is placed."""
        return Chains(self.moment)

    def leaves_plane(self) -> bool:
        """Whether they may bring parts out of the plane of the stage where all there is lies in it."""
        plan = self.moment.plan
        return plan.leaves_plane or any(self.moment.numbers(group)[name].any() for group, name in plan.deep_numbers)

    def place(self, own: Local, wave: Wave, acting: Acting, world: World) -> None:
        """Put parts of a wave that constraints act on in the world; `own` is where they lie without."""
        rows, here = acting.rows, acting.here
        taken = known = PlacedParts(own.place, own.linear, own.spin, own.tail, 0.0).of_rows(here)
        shape = (acting.count, self.moment.frame_count)
        if acting.level:
            plain = matrices_of_rows(matrices_of_rows(own.plain, here), acting.level_at) if world.plain else []
            level = self._levelled(taken.of_rows(acting.level_at), acting.level, plain)
            taken = taken.with_rows(acting.level_at, level, shape)
        for at, group in acting.groups:
            given, first = GivenTo(group, self.moment, world), group.constraints[0]
            if len(group.rows) == acting.count:
                taken = first.there(taken, given)
            else:
                taken = taken.with_rows(at, first.there(taken.of_rows(at), given), shape)
        put_column(world.origin, rows, taken.origin)
        if taken.place is not known.place:
            put_column(world.place, rows, taken.place)
        if taken.linear is not known.linear:
            put_matrix(world.linear, rows, taken.art)
        if self.moment.plan.counts_turns:
            turned = np.broadcast_to(np.asarray(taken.turned), shape)
            self.moment.turned.update(zip(np.arange(len(self.moment.plan.parts))[rows].tolist(), turned, strict=True))
        if world.plain:
            put_matrix(world.plain, rows, product(taken.rotation, matrices_of_rows(own.plain, here)))

    def _levelled(self, placed: PlacedParts, rows: Sequence[int], plain: Matrix) -> PlacedParts:
        """Ends of chains that keep their linear parts whatever turns above them, and their plain rotations, which are
        `plain` as the chains turn them.
        """
        level = [self.chains.level[row] for row in rows]
        turned = np.stack([one.turned for one in level])
        entries = np.stack([one.linear for one in level], axis=2)
        if len(entries) == 2:
            (a, b), (c, d) = entries
            (_, _, depth_x), (_, _, depth_y), last = placed.linear
            return replace(placed, linear=[[a, b, depth_x], [c, d, depth_y], last], turned=turned)
        rotated = None
        if plain:
            wanted = np.stack([one.plain for one in level if one.plain is not None], axis=2)
            rotated = product([list(row) for row in wanted], [list(column) for column in zip(*plain, strict=True)])
        return replace(placed, linear=[list(row) for row in entries], turned=turned, rotated=rotated)
