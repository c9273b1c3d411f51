"""Down the waves: world = inherited(parent world) local, for all parts of one depth at once."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from jointed_crane.core.evaluate.acting.constrained import Constraints
from jointed_crane.core.evaluate.inheritance import inherited_linear, inherited_plain
from jointed_crane.core.evaluate.packing.plan import Plan, Wave
from jointed_crane.core.evaluate.placement import Local
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.fields import (
    applied,
    columns_of_rows,
    matrices_of_rows,
    minus,
    of_rows,
    plus,
    product,
    put_column,
    put_matrix,
    stacked,
    stacked_column,
    unstacked,
    unstacked_column,
)


def down_the_waves(plan: Plan, local: Local, frame_count: int, constraints: Constraints | None = None) -> World:
    """The world of every part, parents before their children; `constraints` are those of the plan, if it has some."""
    shape = (len(plan.parts), frame_count)
    is_partial = bool(plan.partial)
    is_flat = not is_partial and _is_flat(local) and not (constraints and constraints.leaves_plane())
    axes = range(2) if is_flat else range(3)
    result = World(
        [[np.empty(shape) if i in axes and j in axes else float(i == j) for j in range(3)] for i in range(3)],
        [np.empty(shape) if i in axes else 0.0 for i in range(3)],
        [np.empty(shape) if i in axes else 0.0 for i in range(3)],
        [[np.empty(shape) for _ in range(3)] for _ in range(3)] if is_partial else [],
    )
    for number, wave in enumerate(plan.waves):
        own = _of_wave(local, wave.rows, is_partial)
        if constraints is not None:
            for group in plan.constraints.reaching[number]:
                constraints.chains.reach(group, result, local)
            own = constraints.chains.acted(own, wave, *plan.constraints.bent_of[number])
        if wave.parents is not None:
            own = _inherited(plan, wave, result, own, frame_count)
        carried = applied(own.linear, own.tail)
        spun = product(own.linear, own.spin)
        put_column(result.place, wave.rows, own.place)
        put_column(result.origin, wave.rows, [plus(*pair) for pair in zip(own.place, carried, strict=True)])
        put_matrix(result.linear, wave.rows, spun)
        if is_partial:
            put_matrix(result.plain, wave.rows, own.plain)
        if constraints is not None:
            for acting in plan.constraints.acting[number]:
                constraints.place(own, wave, acting, result)
    return result


def _of_wave(local: Local, rows: slice, is_partial: bool) -> Local:
    return Local(
        matrices_of_rows(local.linear, rows),
        matrices_of_rows(local.spin, rows),
        columns_of_rows(local.place, rows),
        columns_of_rows(local.tail, rows),
        matrices_of_rows(local.plain, rows) if is_partial else [],
    )


def _is_flat(local: Local) -> bool:
    """Whether nothing leaves the plane z = 0."""
    depth = [local.place[2], local.tail[2]]
    for matrix in (local.linear, local.spin):
        depth += [matrix[0][2], matrix[1][2], matrix[2][0], matrix[2][1], minus(1.0, matrix[2][2])]
    return all(isinstance(value, float) and value == 0.0 for value in depth)


def _inherited(plan: Plan, wave: Wave, above: World, own: Local, frame_count: int) -> Local:
    """A wave's parts on the stage: the pivot stays where the parent's full matrix puts it unless position is not
    inherited.
    """
    assert wave.parents is not None
    parents = wave.parents
    linear = matrices_of_rows(above.linear, parents)
    carried = applied(linear, own.place)
    on_stage = [plus(of_rows(above.origin[axis], parents), carried[axis]) for axis in range(3)]
    if not plan.partial:
        return replace(own, linear=product(linear, own.linear), place=on_stage)
    plain = matrices_of_rows(above.plain, parents)
    partial = [(row, kept) for row, kept in plan.partial.items() if wave.rows.start <= row < wave.rows.stop]
    if partial:
        shape = (wave.rows.stop - wave.rows.start, frame_count)
        linears, plains = stacked(linear, shape), stacked(plain, shape)
        points, places = stacked_column(on_stage, shape), stacked_column(own.place, shape)
        for row, kept in partial:
            here = row - wave.rows.start
            linears[here] = inherited_linear(linears[here], plains[here], kept)
            plains[here] = inherited_plain(plains[here], kept)
            if not kept.position:
                points[here] = places[here]
        linear, plain = unstacked(linears), unstacked(plains)
        on_stage = unstacked_column(points)
    return replace(own, linear=product(linear, own.linear), place=on_stage, plain=product(plain, own.plain))
