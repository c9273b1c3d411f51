"""How a process that answers for hours treats memory."""

from __future__ import annotations

import ctypes
import gc

#: Parameters of glibc's mallopt(3), and what they are set to, bytes.
_TRIM_THRESHOLD, _MMAP_THRESHOLD = -1, -3
_MOST_HELD, _LARGEST_HELD = 256 << 20, 32 << 20


def settle() -> None:
    """To be called once everything is loaded.

    What is loaded stays. Scenes are frozen values, which hold on to each other in one direction only: they go by
    themselves, so looking for garbage that goes round is rarely worth what it takes from a dragging hand.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)
    hold_freed()


def hold_freed() -> None:
    """Have the allocator keep what is freed, up to a bound, where it is known how to ask for that.

    Each evaluation takes and frees some megabytes. Given back to the system and taken anew, every page of them is a
    fault: a third of the time of a whole evaluation.
    """
    ask = getattr(ctypes.CDLL(None), "mallopt", None)
    if ask is not None:
        ask(_TRIM_THRESHOLD, _MOST_HELD)
        ask(_MMAP_THRESHOLD, _LARGEST_HELD)
