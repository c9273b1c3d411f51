"""Errors whose message is a sentence a user can act on."""


class RuleError(ValueError):
    """An edit or a value that the rules refuse.

    The message says what happened, what was kept and what to do; it is shown as it stands.
    """


class UnknownPart(RuleError):
    """An edit names a part that the scene does not hold."""

    def __init__(self, part_id: str) -> None:
        super().__init__(f"There is no part {part_id!r} in this scene. Nothing was changed; load the scene anew.")
