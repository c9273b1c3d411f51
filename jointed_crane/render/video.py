"""Frames as films: WebM and MP4 of constant rate."""

from __future__ import annotations

import os
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from typing import BinaryIO, Literal, cast

import av
import numpy as np
from av.codec.context import Flags
from av.video.codeccontext import VideoCodecContext
from av.video.reformatter import ColorPrimaries, ColorRange, Colorspace, ColorTrc
from av.video.stream import VideoStream

from jointed_crane.render.frames import Pixels
from jointed_crane.render.png import over, straight

Codec = Literal["vp9", "av1", "h264"]
#: Encoders go by threads of a fixed number, so that the same frames become the same bytes on any machine.
_THREADS = 2
#: Room for what an MP4 says of its frames before them, so that a page can play it before it has all of it: bytes in
#: all, and for each frame.
_HEAD, _HEAD_A_FRAME = 8_192, 40
os.environ.setdefault("SVT_LOG", "1")  # errors alone; this encoder tells the terminal all about itself otherwise


@dataclass(frozen=True)
class _Encoder:
    """How one codec is asked for.

    Attributes
    ----------
    name : of the encoder
    worst, slope : the constant rate factor at quality 0, and how much less it is at each step
    options : what else it is told
    """

    name: str
    worst: float
    slope: float
    options: dict[str, str]


# Quality 85 is about what each codec's makers call good, from memory: 19 of 51 for H.264, 25 of 63 for VP9 and AV1.
_ENCODERS: dict[Codec, _Encoder] = {
    "vp9": _Encoder("libvpx-vp9", 63, 0.45, {"b": "0", "deadline": "good", "cpu-used": "4", "row-mt": "1"}),
    "av1": _Encoder("libsvtav1", 63, 0.45, {"preset": "8"}),
    "h264": _Encoder("libx264", 51, 0.38, {"preset": "medium"}),
}


def video(
    frames: Iterable[Pixels],
    count: int,
    size: tuple[int, int],
    rate: Fraction,
    container: Literal["webm", "mp4"],
    codec: Codec,
    quality: int,
    ground: tuple[int, int, int] | None,
    file: BinaryIO,
) -> None:
    """Write frames as a film; each is shown for one frame of the rate, the last one too.

    Colours are those of BT.709 in limited range, which the file says. Sizes are even: an odd one gets a column or row
    of the ground more, and nothing is stretched.

    Parameters
    ----------
    size : width and height of the frames, px
    quality : 0 to 100
    ground : red, green and blue that lie under what is clear; None keeps it clear, which VP9 alone can
    """
    width, height = (side + side % 2 for side in size)
    encoder = _ENCODERS[codec]
    options = {"fflags": "+bitexact"}
    if container == "mp4":
        options["moov_size"] = str(_HEAD + _HEAD_A_FRAME * count)
    with av.open(file, "w", format=container, container_options=options) as output:
        crf = str(round(encoder.worst - encoder.slope * quality))
        clear = {"auto-alt-ref": "0"} if ground is None else {}
        told = {**encoder.options, **clear, "crf": crf}
        stream = cast(VideoStream, output.add_stream(encoder.name, rate=rate, options=told))
        stream.width, stream.height = width, height
        stream.pix_fmt = "yuva420p" if ground is None else "yuv420p"
        context = cast(VideoCodecContext, stream.codec_context)
        context.time_base = 1 / rate
        context.thread_count = _THREADS
        context.flags |= Flags.bitexact
        context.colorspace, context.color_range = Colorspace.ITU709, ColorRange.MPEG
        context.color_primaries, context.color_trc = ColorPrimaries.BT709, ColorTrc.BT709
        for place, pixels in enumerate(frames):
            picture = _picture(pixels, ground, width, height)
            picture = picture.reformat(
                format=stream.pix_fmt,
                src_colorspace=Colorspace.ITU709,
                dst_colorspace=Colorspace.ITU709,
                src_color_range=ColorRange.JPEG,
                dst_color_range=ColorRange.MPEG,
            )
            picture.color_primaries, picture.color_trc = ColorPrimaries.BT709, ColorTrc.BT709
            picture.pts, picture.time_base, picture.duration = place, 1 / rate, 1
            output.mux(stream.encode(picture))
        output.mux(stream.encode(None))


def _picture(pixels: Pixels, ground: tuple[int, int, int] | None, width: int, height: int) -> av.VideoFrame:
    """A frame at an even size, over its ground or clear."""
    if ground is None:
        wide = np.zeros((height, width, 4), np.uint8)
        wide[: pixels.shape[0], : pixels.shape[1]] = straight(pixels)
        return av.VideoFrame.from_ndarray(wide, "rgba")
    wide = np.empty((height, width, 3), np.uint8)
    wide[:] = ground
    wide[: pixels.shape[0], : pixels.shape[1]] = over(pixels, ground)
    return av.VideoFrame.from_ndarray(wide, "rgb24")
