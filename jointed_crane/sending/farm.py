"""Frames drawn on more than one machine: workers of Dask's distributed scheduler draw stretches of them.

Nothing of it is loaded where nobody names a scheduler. A worker needs this package and the same version of it; it is
sent the scene as a document and each art once, under the hash of its bytes, and gives frames back as they are kept at
home.
"""

from __future__ import annotations

import hashlib
import io
import logging
import socket
import time
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import lru_cache, partial
from queue import Empty, Queue
from typing import TYPE_CHECKING, Any
from urllib.parse import urlsplit
from uuid import uuid4

from pydantic_core import from_json, to_json

from jointed_crane import __version__
from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.document import scene_document, scene_from
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.sending.bounds import DRAWING
from jointed_crane.sending.choices.base import SentFrames
from jointed_crane.sending.film import Sent
from jointed_crane.sending.frame_files import FrameFiles, packed
from jointed_crane.sending.ways import WAYS

if TYPE_CHECKING:
    from distributed import Client, Future

#: How long a scheduler and its workers are waited for, and how often it is looked whether anything came, s.
_PATIENCE, _LOOK = 10, 0.25
#: How often a lost stretch is drawn again.
_RETRIES = 3
#: Stretches that are asked for before they are wanted: enough that no worker waits, and not the frames of a whole film.
_AHEAD = 32

Stretch = tuple[int, int]


class Farm:
    """The workers of one scheduler. RuleError with a sentence where it does not answer, or is not of this version."""

    def __init__(self, address: str) -> None:
        try:
            from distributed import Client
        except ImportError:
            raise RuleError(
                "Frames cannot be drawn on other machines: the package distributed is not installed here. Nothing was "
                "sent; install it, or send without a farm."
            ) from None
        logging.getLogger("distributed").setLevel(logging.CRITICAL)  # what it notes is said by our sentences
        self._address = address
        self._held: dict[str, Future] = {}
        try:
            # Asked first whether anybody listens there: a client that finds nobody goes on looking.
            socket.create_connection(_host_and_port(address), timeout=_PATIENCE).close()
            self._client: Client = Client(address, timeout=_PATIENCE, set_as_default=False, name="jointed-crane")
        except (OSError, ValueError) as error:
            raise self._lost(error) from None

    def close(self) -> None:
        """Ask for nothing more; what is under way is dropped."""
        self._client.close()

    def drawn(
        self,
        scene: Scene,
        art: ArtSource,
        choices: SentFrames,
        stretches: Sequence[Stretch],
        is_over: Callable[[], bool] = lambda: False,
    ) -> Iterator[tuple[int, list[bytes]]]:
        """The frames of each stretch, packed as files keep them, with the place of its first, as they are drawn, until
        it is over.

        Each stretch comes once; where a worker is lost, another draws it. RuleError where no worker draws any more.
        """
        document = to_json(scene_document(scene))
        arts = {drawing.art: partial(art, drawing.art) for part in scene.parts for drawing in part.drawings}
        told = type(choices).__name__, choices.model_dump()
        asked: dict[Future, Stretch] = {}
        answers: Queue[Future] = Queue()
        waiting, tries, since = list(stretches)[::-1], Counter[Stretch](), time.monotonic()
        try:
            while not is_over() and not self._client.scheduler_info()["workers"]:
                self._ensure_drawing(since)
                time.sleep(_LOOK)
            while (waiting or asked) and not is_over():
                while waiting and len(asked) < _AHEAD:
                    future = self._ask(document, arts, (*told, *waiting[-1]))
                    asked[future] = waiting.pop()
                    future.add_done_callback(answers.put)
                try:
                    future = answers.get(timeout=_LOOK)
                except Empty:
                    self._ensure_drawing(since)
                    continue
                stretch, since = asked.pop(future), time.monotonic()
                try:
                    frames: list[bytes] = future.result()
                except RuleError:
                    raise
                except Exception as error:  # whatever a worker, the network or the scheduler stumbles over
                    tries[stretch] += 1
                    if tries[stretch] > _RETRIES:
                        raise self._lost(error) from None
                    waiting.append(stretch)
                    continue
                yield stretch[0], frames
        except OSError as error:  # a timeout is one
            raise self._lost(error) from None
        finally:
            self._client.cancel(list(asked))

    def _ask(self, document: bytes, arts: Mapping[str, Callable[[], Any]], told: tuple[Any, ...]) -> Future:
        held = self._there(f"scene-{hashlib.sha256(document).hexdigest()}", lambda: document)
        known = {name: self._there(f"art-{name}", made) for name, made in arts.items()}
        return self._client.submit(stretch_on_farm, __version__, held, known, *told, pure=False)

    def _there(self, key: str, made: Callable[[], Any]) -> Future:
        """What is at the workers under a name made of its contents; sent where it is not yet, or could not be kept.

        It is the result of a task, since that is made anew where the worker that holds it is lost; data that is only
        handed out is then gone. A name is used once: the word that an earlier one is not wanted may come later.
        """
        held = self._held.get(key)
        if held is None or held.status not in ("pending", "finished"):
            held = self._held[key] = self._client.submit(_kept, made(), key=f"{key}-{uuid4().hex}")
        return held

    def _ensure_drawing(self, since: float) -> None:
        """RuleError where nothing was drawn for long, or there is nobody to draw it."""
        waited = time.monotonic() - since
        if self._client.status != "running":
            raise self._lost(ConnectionError("its scheduler has gone"))
        if waited > _PATIENCE and not self._client.scheduler_info()["workers"]:
            raise self._lost(TimeoutError("it has no workers"))
        if waited > DRAWING.seconds:
            raise self._lost(TimeoutError(f"nothing was drawn for {DRAWING.seconds:.0f} s"))

    def _lost(self, error: BaseException) -> RuleError:
        return RuleError(
            f"The farm at {self._address} does not draw ({type(error).__name__}: {error}). What is drawn is kept; "
            "start its scheduler and workers and go on, or send without a farm."
        )


def _host_and_port(address: str) -> tuple[str, int]:
    """Of "tcp://host:port"; ValueError where it is none such."""
    parsed = urlsplit(address if "//" in address else f"tcp://{address}")
    if not parsed.hostname or parsed.port is None:
        raise ValueError("an address is written like tcp://host:8786")
    return parsed.hostname, parsed.port


def fill(
    files: FrameFiles,
    address: str,
    scene: Scene,
    art: ArtSource,
    choices: SentFrames,
    stretches: Sequence[Stretch],
    is_over: Callable[[], bool],
) -> None:
    """Have a farm draw stretches of frames and keep them in files, until it is over."""
    farm = Farm(address)
    try:
        for first, frames in farm.drawn(scene, art, choices, stretches, is_over):
            for place, frame in enumerate(frames, start=first):
                files.put(place, frame)
    finally:
        farm.close()


def _kept(value: Any) -> Any:
    """What is sent to the workers once, for all stretches that need it."""
    return value


def stretch_on_farm(
    version: str,
    document: bytes,
    art: dict[str, tuple[str, bytes]],
    kind: str,
    chosen: dict[str, Any],
    first: int,
    last: int,
) -> list[bytes]:
    """What a worker does: draw the frames from a place to another, both included, and pack them."""
    if version != __version__:
        raise RuleError(f"A worker of the farm is of version {__version__}, not {version}. Nothing was sent.")
    (model,) = (way.choices for way in WAYS.values() if way.choices.__name__ == kind)
    choices = model.model_validate(chosen, by_name=True)
    assert isinstance(choices, SentFrames)
    film = choices.film(Sent(_scene(document), lambda name: art[name], io.BytesIO()))
    frames = film.frames(first)
    return [packed(next(frames)) for _ in range(last - first + 1)]


@lru_cache(maxsize=4)
def _scene(document: bytes) -> Scene:
    """A scene that was read for one stretch is there for the next."""
    return scene_from(from_json(document))
