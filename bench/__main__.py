"""Prints the figures of the design's section 6: `make bench`."""

from __future__ import annotations

from bench.commands import commands, fusing_over_reading, ordinary_import, twenty_files_over_one
from bench.drawings import large_art
from bench.evaluation import (
    constrained_over_plain,
    edit_growth,
    first_pose,
    fresh_over_product,
    growth,
    over_library,
    over_product,
)
from bench.frames import frames_over_bare, memory_of_a_long_film, two_processes_over_one
from bench.largest import LARGEST, longest
from bench.page import dense_figures, page_figures, work_of_planes
from bench.preview import (
    DRAGS,
    FRAME_OF_60_HZ,
    TURN_ONE,
    VIEWS,
    RoundTrips,
    goal_drag,
    lever_drag,
    plane_drag,
    round_trips,
)
from bench.scenes import dense
from bench.timing import unsteadiness
from bench.viewing import maps_over_plain, order_milliseconds
from jointed_crane.core.edits.placing.poses import TurnBy
from jointed_crane.memory import hold_freed
from tests.crowds import crowd


def main() -> None:
    """Measure and print."""
    hold_freed()  # as the server does
    median, slow = unsteadiness()
    print(f"this machine now: the same work takes {median:.2f} (p50) and {slow:.2f} (p95) times its shortest time")
    scene = crowd(200)
    print(f"whole evaluation, 200 parts x 300 frames / one 4 x 4 product: {over_product(scene):.1f} (aim at most 8)")
    print(f"part-frames a second / scene-description library: {over_library(scene):.1f} (aim at least 5)")
    print(f"evaluation seen in perspective / evaluation: {maps_over_plain(scene):.1f} (aim at most 2)")
    orders = ", ".join(
        f"{count} of which {cutting} cut another {order_milliseconds(count, cutting):.1f} ms (aim at most {aim})"
        for count, cutting, aim in ((200, 20, 10), (60, 6, 3))
    )
    print(f"planes in the order of their depth: {orders}")
    print(f"1,000 parts / ten times 100 parts: {growth():.2f} (1 is linear)")
    said = ", ".join(f"{name} {share:.2f}" for name, share in edit_growth().items())
    print(f"edits of four times as many keys or parts / four times the time: {said} (1 is linear)")
    for name, make in LARGEST.items():
        most = ", ".join(f"{kind} {took:.2f}" for kind, took in [*longest(make()).items()][:5])
        print(f"edits that take longest among {name}, in units of about a second: {most} (aim at most 2)")
    for name, keyed in (("8 keys on 3 channels", scene), ("40 keys on 5 channels", dense())):
        cold, after = fresh_over_product(keyed), fresh_over_product(keyed, TurnBy(("p102",), 1.0, 100.0))
        print(f"the same with {name}: cold {cold:.1f} (aim at most 6), after one edit {after:.1f} (aim at most 3)")
    print(f"the same with 40 constraints / without them: {constrained_over_plain(scene):.2f} (aim at most 1.5)")
    print(f"first pose of 200 parts with 40 keys on 5 channels: {first_pose(dense()):.0f} ms (aim below 100)")
    for parts, aim in ((200, 6), (1000, 10)):
        print(
            f"preview round trip, turn one of {parts}: {_said(round_trips(DRAGS[TURN_ONE], parts=parts))}, aim {aim} ms"
        )
    print(
        f"preview round trip, the goal of a reach among 40 constraints: {_said(round_trips(goal_drag, scene='ruled'))}"
    )
    print(
        f"preview round trip, a lever beside 200: {_said(round_trips(lever_drag, scene='levered'))}, as a turned limb"
    )
    deep = round_trips(plane_drag, scene="planes", views=VIEWS)
    print(f"preview round trip, turn one of 200 planes in four views: {_said(deep)}, aim p95 below 20 ms")
    for name, edit in DRAGS.items():
        print(f"preview round trip, {name}: {_said(round_trips(edit))}, aim p95 below 16 ms")
    said = ", ".join(f"{name} {over:.2f}" for name, over in frames_over_bare().items())
    print(f"drawing frames / the bare rasteriser drawing the same: {said} (aim at most 1.5)")
    print(f"frames drawn by two processes / by one, in a time: {two_processes_over_one():.2f} (aim at least 1.7)")
    print(f"memory after 2,000 frames beyond that after 200: {memory_of_a_long_film():.0f} MB (aim 0)")
    said = ", ".join(f"{kind} {took:.2f}" for kind, took in large_art().items())
    print(f"reading large art, in units of about a second: {said} (aim at most 5)")
    print(f"import of an ordinary drawing: {ordinary_import():.2f} s")
    print(f"import of twenty files at once: {twenty_files_over_one():.1f} times one file")
    print(f"fusing 56 parts: {fusing_over_reading():.2f} times reading the 28 of an ordinary drawing")
    for words, share in commands().items():
        print(f"jointed-crane {words}: {share:.2f} of the time to load SQLAlchemy, NumPy and pydantic alone")
    first, again, pauses = dense_figures()
    print(f"opening 200 parts, 40 keys on 5 channels: {first / 1000:.2f} s, {again / 1000:.2f} s again (aim at most 1)")
    print(f"scrolling their keys: p95 {pauses / FRAME_OF_60_HZ:.2f} of a 60 Hz frame")
    on_stage, aside = work_of_planes()
    print(f"the page's work for a frame of 200 planes: {on_stage:.1f} ms, from aside {aside:.1f} ms (aim below 4)")
    found = page_figures()
    print(f"opening the bench with 300 parts: {found.opening / 1000:.2f} s (aim below 2)")
    for name, times in (("the first 40 picks", found.first_picks), ("the next 40", found.picks)):
        p50, p95 = (time / FRAME_OF_60_HZ for time in times)
        print(f"300 parts, in 60 Hz frames: {name} p50 {p50:.2f}, p95 {p95:.2f} (aim at most 1)")
    filtering, scrolling = (time / FRAME_OF_60_HZ for time in (found.filtering, found.scrolling))
    print(f"300 parts, in 60 Hz frames: slowest letter of filtering {filtering:.2f}, p95 of scrolling {scrolling:.2f}")
    print(
        f"drag of 120 moves, seated limb of 200 parts: {found.previews} previews, "
        f"p50 {found.drag_p50:.1f} ms, p95 {found.drag_p95:.1f} ms"
    )


def _said(found: RoundTrips) -> str:
    return (
        f"{found.over_refused:.2f} times a refusal (p50 {found.p50:.1f}, p95 {found.p95:.1f} ms, "
        f"{found.p95 / FRAME_OF_60_HZ:.2f} of a 60 Hz frame)"
    )


if __name__ == "__main__":
    main()
