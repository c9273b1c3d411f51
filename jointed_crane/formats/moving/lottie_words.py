"""What reading and writing vector animation both say (Lottie 1.0, "Layers" and "Properties")."""

from __future__ import annotations

from typing import Any

Json = dict[str, Any]
#: Kinds of layers.
PRECOMPOSED, SOLID, IMAGE, EMPTY, SHAPES = range(5)


def still(value: Any) -> Json:
    """A property that does not move."""
    return {"a": 0, "k": value}
