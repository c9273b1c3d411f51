"""What drawing frames takes: beside the bare rasteriser, in two processes beside one, and of memory in a long film."""

from __future__ import annotations

import resource
from concurrent.futures import ThreadPoolExecutor
from itertools import cycle, islice
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import skia

from bench.timing import ratio
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import NO_GROUND, Scene
from jointed_crane.core.viewing.projection import planar
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.render.art_pictures import ArtPictures
from jointed_crane.render.colours import colour_of
from jointed_crane.render.frames import Renderer
from jointed_crane.sending import jobs
from jointed_crane.sending.bounds import DRAWING
from jointed_crane.sending.choices.films import WebM
from jointed_crane.store.library import Library, new_id
from jointed_crane.work.workers import Workers
from tests.demo_library import copy_demo, demo_scenes

_NUMBERS = np.arange(0.0, 24.0)


def frames_over_bare() -> dict[str, float]:
    """By scene: drawing frames beside the library itself drawing the same pictures by the same matrices."""
    result = {}
    for scene, art in demo_scenes():
        renderer, bare = Renderer(scene, art), _bare(scene, art)
        result[scene.name] = ratio(lambda its=renderer: list(its.frames(_NUMBERS)), bare, runs=5)
    return result


def _bare(scene: Scene, art: ArtSource):
    """Draws the frames with everything known beforehand: pictures, matrices, opacity and order."""
    pictures, pose = ArtPictures(art), evaluate(scene, _NUMBERS)
    shapes = pose.shapes()
    drawn = []
    for column in range(len(_NUMBERS)):
        rows = [pose.index[part_id] for part_id in pose.painting(column)]
        drawn.append(
            [
                (
                    scene.parts[row].drawings[pose.drawing[row, column]],
                    skia.Matrix.MakeAll(*planar(pose.world[row, column])[[0, 2, 4, 1, 3, 5]].tolist(), 0, 0, 1),
                    float(pose.opacity[row, column]),
                )
                for row in rows
                if scene.parts[row].is_sent and pose.shown[row, column] and pose.opacity[row, column] > 0
                if pose.drawing[row, column] >= 0 and scene.parts[row].id not in shapes
            ]
        )
    width, height = round(scene.width), round(scene.height)
    srgb = skia.ColorSpace.MakeSRGB()
    of_floats = skia.ImageInfo.Make(width, height, skia.kRGBA_F16_ColorType, skia.kPremul_AlphaType, srgb)
    of_bytes = skia.ImageInfo.Make(width, height, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType, srgb)
    ground = None if scene.ground == NO_GROUND else colour_of(scene.ground)

    def run() -> None:
        for parts in drawn:
            surface = skia.Surface(of_floats)
            with surface as canvas:
                if ground is not None:
                    canvas.clear(ground)
                for drawing, matrix, opacity in parts:
                    canvas.save()
                    canvas.concat(matrix)
                    if opacity < 1:
                        canvas.saveLayer(None, skia.Paint(Alphaf=opacity))
                    pictures.draw(canvas, drawing)
                    canvas.restoreToCount(1)
            surface.readPixels(of_bytes, np.empty((height, width, 4), np.uint8), width * 4, 0, 0)

    return run


def two_processes_over_one() -> float:
    """How many times as many frames two workers draw in a time as one does."""
    with TemporaryDirectory() as name:
        folder = Path(name)
        copy_demo(folder)
        library, workers = Library(folder), Workers(modules=["jointed_crane.sending.jobs"])
        workers.warm()
        entry = library.scenes.load(library.shelf.cards()[0].id)
        places = cycle(range(10_000))

        def stretch(_: int) -> None:
            order = jobs.BackgroundOrder(sending.id, library.assets.address, str(folder / f"f{next(places)}"))
            Path(order.folder).mkdir()
            workers.do(DRAWING, jobs.stretch_drawn, order, WebM(), 0, 47)

        sending = library.sendings.add(new_id(), entry.scene, entry.version, "webm", {}, "x.webm")

        def drawn(hands: int) -> None:
            with ThreadPoolExecutor(hands) as pool:
                list(pool.map(stretch, range(2)))

        result = ratio(lambda: drawn(1), lambda: drawn(2), runs=5)
        workers.close()
    return result


def memory_of_a_long_film() -> float:
    """How many MB more the most memory is after 2,000 frames than after 200."""
    scene, art = demo_scenes()[0]
    renderer = Renderer(scene, art, (320, 180))
    numbers = list(islice(cycle(range(scene.length)), 2_000))
    taken = []
    for place, _ in enumerate(renderer.frames([float(number) for number in numbers]), start=1):
        if place in (200, 2_000):
            taken.append(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
    return taken[1] - taken[0]
