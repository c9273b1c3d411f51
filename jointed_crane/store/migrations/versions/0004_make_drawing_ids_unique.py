"""Make the ids of drawings unique in their scene, and say things by their newer words."""

import json
from collections import Counter

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

#: What was said before and what is said now, in the JSON of each column: a value, and two names of fields.
_WORDS = {
    ("channels", "outside"): [('"repeat with offset"', '"repeat onwards"')],
    ("parts", "placement"): [('"held":', '"fixed":')],
    ("drawings", "geometry"): [('"mark":', '"cross":')],
}
_EVERYWHERE = [pair for pairs in _WORDS.values() for pair in pairs]


def upgrade() -> None:
    connection = op.get_bind()
    everywhere = {("journal", column): _EVERYWHERE for column in ("before", "after")}
    for (table, column), pairs in {**_WORDS, **everywhere}.items():
        for old, new in pairs:
            connection.execute(
                sa.text(f"UPDATE {table} SET {column} = replace({column}, :old, :new) WHERE instr({column}, :old)"),
                {"old": old, "new": new},
            )
    for scene_id, renamed in _renamed(connection).items():
        for (part_id, old), new in renamed.items():
            connection.execute(
                sa.text("UPDATE drawings SET id = :new WHERE scene_id = :scene AND part_id = :part AND id = :old"),
                {"new": new, "scene": scene_id, "part": part_id, "old": old},
            )
        _rename_in_journal(connection, scene_id, renamed)


def _renamed(connection: sa.Connection) -> dict[str, dict[tuple[str, str], str]]:
    """New ids by scene, part and old id, for those that stand in more than one part; copies that share keep one."""
    owner = {
        (row.scene_id, row.id): json.loads(row.placement).get("shares") or row.id
        for row in connection.execute(sa.text("SELECT scene_id, id, placement FROM parts"))
    }
    rows = connection.execute(sa.text("SELECT scene_id, part_id, id FROM drawings")).all()
    holders = {(row.scene_id, row.id, owner[row.scene_id, row.part_id]) for row in rows}
    counts = Counter((scene_id, drawing_id) for scene_id, drawing_id, _ in holders)
    result: dict[str, dict[tuple[str, str], str]] = {}
    for row in rows:
        if counts[row.scene_id, row.id] > 1:
            new = f"{owner[row.scene_id, row.part_id]}-{row.id}"
            result.setdefault(row.scene_id, {})[row.part_id, row.id] = new
    return result


def _rename_in_journal(connection: sa.Connection, scene_id: str, renamed: dict[tuple[str, str], str]) -> None:
    rows = connection.execute(
        sa.text("SELECT id, before, after FROM journal WHERE scene_id = :scene"), {"scene": scene_id}
    ).all()
    for row in rows:
        changed = [json.loads(row.before), json.loads(row.after)]
        for changes in changed:
            for key, _ in changes:
                if key[0] == "drawings":
                    key[2] = renamed.get((key[1], key[2]), key[2])
        connection.execute(
            sa.text("UPDATE journal SET before = :before, after = :after WHERE id = :id"),
            {"id": row.id, "before": json.dumps(changed[0]), "after": json.dumps(changed[1])},
        )


def downgrade() -> None:
    """Unique ids and the newer word stay; an older version reads the ids, but not the word."""
