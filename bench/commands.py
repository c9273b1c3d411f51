"""How long commands take against loading the libraries that most of them need; and bringing a drawing in."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from bench.timing import seconds
from jointed_crane.core.edits.pictures.fusing import layers
from jointed_crane.formats.artwork import AS_ONE, together
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.formats.svg_out.fusion import fused_svg
from jointed_crane.reading import jobs
from jointed_crane.reading.bounds import READING
from jointed_crane.reading.foreign_file import ForeignFile
from jointed_crane.store.library import scene_of
from jointed_crane.work.workers import Workers

_HERON = Path(__file__).parents[1] / "heron_lock" / "art" / "heron.svg"
_LIBRARIES = "import sqlalchemy, numpy, pydantic; pydantic.TypeAdapter"


def ordinary_import() -> float:
    """Seconds in which a worker reads the heron's drawing, 28 layers; the best of five."""
    workers = Workers(modules=[jobs.__name__])
    workers.warm()
    file = ForeignFile(_HERON.read_bytes(), _HERON.name)
    best = seconds(lambda: workers.do(READING, jobs.artwork, [file]), runs=5)
    workers.close()
    return best


def twenty_files_over_one() -> float:
    """How many times as long twenty files of the heron take in one worker as one; 20 is no better than one by one."""
    workers = Workers(modules=[jobs.__name__])
    workers.warm()
    file = ForeignFile(_HERON.read_bytes(), _HERON.name, AS_ONE)
    once, often = (seconds(lambda n=n: workers.do(READING, jobs.artwork, [file] * n), runs=3) for n in (1, 20))
    workers.close()
    return often / once


def fusing_over_reading() -> float:
    """Fusing the heron's 28 layers twice over, 56 parts, as a share of reading its drawing with all layers."""
    data = _HERON.read_bytes()
    artwork = together([read_artwork(data, _HERON.name)] * 2)
    scene = scene_of(artwork, "Heron")
    art = {piece.content_hash: (piece.media_type, piece.data) for piece in artwork.pieces}.__getitem__
    ids = [part.id for part in scene.parts]

    def fuse() -> None:
        fused, _ = fused_svg(layers(scene, ids, None), art)
        read_artwork(fused, "Fused", AS_ONE)

    return seconds(fuse, runs=3) / seconds(lambda: read_artwork(data, _HERON.name), runs=3)


def commands() -> dict[str, float]:
    """By command: its time as a share of the time in which Python loads three libraries; the best of five each."""
    with tempfile.TemporaryDirectory() as folder:
        environment = {**os.environ, "JOINTED_CRANE_DATA": folder}
        run = [sys.executable, "-m", "jointed_crane.cli"]
        target = str(Path(folder) / "out.svg")
        asked = {
            "import": ["import", str(_HERON), "--into", "Heron"],
            "--help": ["--help"],
            "scenes": ["scenes"],
            "pose": ["pose", "Heron", "--frames", "0"],
            "send": ["send", "Heron", "--as", "svg", "--to", target],
        }
        loading = _best([sys.executable, "-c", _LIBRARIES], environment)
        return {words: _best([*run, *rest], environment) / loading for words, rest in asked.items()}


def _best(command: list[str], environment: dict[str, str]) -> float:
    return seconds(lambda: subprocess.run(command, env=environment, check=True, capture_output=True), runs=5)
