"""Edits of cameras: adding them, how they see, which one is on, and moving them as somebody does who looks through."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.placing.poses import moved, when
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.setting_values import ValueEdit
from jointed_crane.core.edits.shared.turns_in_space import turned_by_rotation
from jointed_crane.core.edits.shared.values_on_screen import NewValue, value_on_screen, within_ends
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.decomposition import rotation_about
from jointed_crane.core.hierarchy.tree import free_name, uppermost
from jointed_crane.core.model.cameras import LENS, Camera, CameraCut
from jointed_crane.core.model.channels import SCALE, channel_kind
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.cameras import camera_view, stage_view
from jointed_crane.core.viewing.view import STAGE, View, focal_of_lens, lens_of_angle

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class AddCamera(Edit, kind="add_camera"):
    """Add a camera: where a perspective view stands, or else before the middle of the stage, so that its plane is
    seen as large as it is. The first camera of a scene is on from its beginning, and the scene has depth.
    """

    id: str
    name: str = "Camera"
    view: View = STAGE
    lens: float | None = None
    parallel: bool = False

    def label(self, scene: Scene) -> str:
        return f"Add camera {self.name}"

    def apply(self, scene: Scene) -> Scene:
        if self.id in scene.index:
            raise RuleError(f"A part with the id {self.id!r} is in the scene already. Nothing was changed.")
        lens = self._lens(scene)
        place, turn = self.view.place, self.view.orientation
        if self.view.focal is None:
            distance = focal_of_lens(lens, scene.width)
            middle = np.array([scene.width / 2, scene.height / 2, 0.0]) if self.view == STAGE else np.array(place)
            x, y, z = (middle + distance * self.view.axes[:, 2]).tolist()
            place = (x, y, z)
        rest = {**dict(zip(("move.x", "move.y", "move.z"), place, strict=True)), LENS: lens}
        camera = Part(
            self.id,
            free_name(self.name, (part.name for part in scene.parts)),
            "camera",
            orientation=turn,
            turn_order="YXZ",  # round first, then up and down, then over: as a camera on a stand is turned
            rest=rest,
            camera=Camera(parallel=self.parallel),
        )
        cuts = scene.cuts or (CameraCut(0.0, self.id),)
        return replace(scene, parts=(*scene.parts, camera), cuts=cuts, depth=True)

    def _lens(self, scene: Scene) -> float:
        if self.lens is not None:
            return self.lens
        if self.view.focal is None:
            return channel_kind(LENS).neutral
        low, high = channel_kind(LENS).ends or (1.0, 1.0)
        return min(max(self.view.focal / focal_of_lens(1.0, scene.width), low), high)


@dataclass(frozen=True)
class SetCamera(Edit, kind="set_camera"):
    """Say how a camera sees: in parallel or through its lens, and how deep its near plane lies, px; None keeps one."""

    part: str
    parallel: bool | None = None
    near: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Change {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = camera_of(part)
        parallel = known.parallel if self.parallel is None else self.parallel
        near = known.near if self.near is None else self.near
        return scene.with_parts([replace(part, camera=Camera(parallel=parallel, near=near))])


@dataclass(frozen=True)
class SetLensAngle(ValueEdit, kind="set_lens_angle"):
    """Set the lenses of cameras by the angle that they see from left to right, degrees."""

    parts: tuple[str, ...]
    degrees: float
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"{named(map(scene.part, self.parts))}: sees {self.degrees:g} degrees {when(self.frame)}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        if not 0 < self.degrees < 180:
            raise RuleError("A lens sees more than 0 and less than 180 degrees. Nothing was changed.")
        for part in unlocked(scene, self.parts):
            camera_of(part)
            yield part, LENS, within_ends(part, LENS, lens_of_angle(self.degrees), self.frame)


@dataclass(frozen=True)
class SetCut(Edit, kind="set_cut"):
    """From a frame on a camera is on, or with None the stage's own view; a cut that stands there gives way."""

    frame: float
    camera: str | None = None

    def label(self, scene: Scene) -> str:
        what = "the stage's own view" if self.camera is None else scene.part(self.camera).name
        return f"Cut to {what} at frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        if self.camera is not None:
            camera_of(scene.part(self.camera))
        cut = CameraCut(float(self.frame), self.camera)
        return replace(scene, cuts=_with_cut(scene.cuts, cut), depth=True)


@dataclass(frozen=True)
class MoveCut(Edit, kind="move_cut"):
    """Let a cut happen at another frame; one that stands there gives way."""

    frame: float
    to: float

    def label(self, scene: Scene) -> str:
        return f"Move the cut at frame {self.frame:g} to {self.to:g}"

    def apply(self, scene: Scene) -> Scene:
        known = _cut_at(scene, self.frame)
        others = [cut for cut in scene.cuts if cut is not known]
        return replace(scene, cuts=_with_cut(others, replace(known, frame=float(self.to))))


@dataclass(frozen=True)
class RemoveCut(Edit, kind="remove_cut"):
    """Take a cut away: what was on before it goes on."""

    frame: float

    def label(self, scene: Scene) -> str:
        return f"Take the cut at frame {self.frame:g} away"

    def apply(self, scene: Scene) -> Scene:
        known = _cut_at(scene, self.frame)
        return replace(scene, cuts=tuple(cut for cut in scene.cuts if cut is not known))


@dataclass(frozen=True)
class MoveCamera(ValueEdit, kind="move_camera"):
    """Move a camera as somebody does who looks through it: round a place by degrees to the right and up, aside by px of
    its picture at the depth of that place, and nearer by a share of the way there.

    Attributes
    ----------
    about : px on the stage; None is the point that it looks at on the plane of the stage
    """

    camera: str
    round: tuple[float, float] = (0.0, 0.0)
    aside: tuple[float, float] = (0.0, 0.0)
    nearer: float = 0.0
    about: Vector | None = None
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Move {scene.part(self.camera).name} {when(self.frame)}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        (part,) = unlocked(scene, [self.camera])
        camera_of(part)
        view = camera_view(scene, part, pose_at(scene, self.frame), is_at_rest=self.frame is None)
        place, goal = np.array(view.place), self._goal(view)
        # Round about the stage's y, and then up about its own x.
        turn = rotation_about(np.array([0.0, 1.0, 0.0]), self.round[0]) @ rotation_about(view.axes[:, 0], self.round[1])
        arm = turn @ (place - goal) * (1.0 - min(self.nearer, 0.99))
        across, down, _ = (turn @ view.axes).T
        depth = max(float(np.linalg.norm(arm)), 1e-6)
        px = 1.0 / view.scale if view.focal is None else depth / view.focal
        step = goal + arm - px * (across * self.aside[0] + down * self.aside[1]) - place
        yield from moved(scene, part, step, self.frame)
        yield from turned_by_rotation(scene, part, turn, self.frame)

    def _goal(self, view: View) -> Floats:
        if self.about is not None:
            return np.array(self.about, dtype=np.float64)
        place, way = np.array(view.place), -view.axes[:, 2]
        ahead = -place[2] / way[2] if abs(way[2]) > 1e-3 else -1.0
        return np.asarray(place + way * (ahead if ahead > 1.0 else (view.focal or 1000.0)))


@dataclass(frozen=True)
class SpreadInDepth(ValueEdit, kind="spread_in_depth"):
    """Spread parts in depth as seen by the camera that is on, one `by` px behind the other, the first staying: each is
    scaled about the camera, so that its picture does not change. For parallax of flat layers.
    """

    parts: tuple[str, ...]
    by: float
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Spread {named(map(scene.part, self.parts))} in depth"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        pose = pose_at(scene, self.frame)
        view = stage_view(scene, pose, is_at_rest=self.frame is None)
        ids = [part.id for part in unlocked(scene, self.parts)]
        if set(uppermost(scene, ids)) != set(ids):
            raise RuleError(
                "Parts that hang on each other cannot be spread apart. Nothing was changed; pick the uppermost."
            )
        for place, part_id in enumerate(ids):
            part, pivot = scene.part(part_id), pose.pivot_of(part_id)
            if view.focal is None:
                yield from moved(scene, part, -view.axes[:, 2] * self.by * place, self.frame)
                continue
            depth = float(view.depths[:3] @ pivot + view.depths[3])
            factor = (depth + self.by * place) / depth if depth > 0 else 0.0
            if not factor > 1e-6:
                raise RuleError(f"{part.name} would come before the camera. Nothing was changed; spread by less.")
            yield from moved(scene, part, (factor - 1.0) * (pivot - np.array(view.place)), self.frame)
            for channel in SCALE.names:
                if factor != 1.0:
                    yield part, channel, value_on_screen(part, channel, self.frame) * factor


def camera_of(part: Part) -> Camera:
    """How a camera sees; RuleError where a part is none."""
    if part.camera is None:
        raise RuleError(f"{part.name} is no camera. Nothing was changed.")
    return part.camera


def _cut_at(scene: Scene, frame: float) -> CameraCut:
    known = next((cut for cut in scene.cuts if cut.frame == frame), None)
    if known is None:
        raise RuleError(f"There is no cut at frame {frame:g}. Nothing was changed.")
    return known


def _with_cut(cuts: Iterable[CameraCut], made: CameraCut) -> tuple[CameraCut, ...]:
    """Cuts in order with one more; one that stands on its frame gives way."""
    others = (cut for cut in cuts if cut.frame != made.frame)
    return tuple(sorted([*others, made], key=lambda cut: cut.frame))
