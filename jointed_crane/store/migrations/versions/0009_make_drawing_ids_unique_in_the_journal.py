"""Make the ids of drawings unique in the journal too: what stood there alone came back by undo with another's id."""

import json
from collections import defaultdict

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

_SCENES = sa.text("SELECT id FROM scenes")
_PARTS = sa.text("SELECT id, placement FROM parts WHERE scene_id = :scene")
_DRAWINGS = sa.text("SELECT part_id, id FROM drawings WHERE scene_id = :scene")
_JOURNAL = sa.text("SELECT id, before, after FROM journal WHERE scene_id = :scene AND instr(before || after, 'drawings')")


def upgrade() -> None:
    connection = op.get_bind()
    for (scene_id,) in connection.execute(_SCENES).all():
        scene = {"scene": scene_id}
        journal = [
            (row.id, json.loads(row.before), json.loads(row.after)) for row in connection.execute(_JOURNAL, scene).all()
        ]
        told = [change for _, before, after in journal for change in (*before, *after)]
        renamed = _renamed(connection, scene, told)
        for (part_id, old), new in renamed.items():
            connection.execute(
                sa.text("UPDATE drawings SET id = :new WHERE scene_id = :scene AND part_id = :part AND id = :old"),
                {**scene, "new": new, "part": part_id, "old": old},
            )
        for row_id, before, after in journal if renamed else ():
            for key, _ in (*before, *after):
                if key[0] == "drawings":
                    key[2] = renamed.get((key[1], key[2]), key[2])
            connection.execute(
                sa.text("UPDATE journal SET before = :before, after = :after WHERE id = :id"),
                {"id": row_id, "before": json.dumps(before), "after": json.dumps(after)},
            )


def _renamed(connection: sa.Connection, scene: dict[str, str], told: list) -> dict[tuple[str, str], str]:
    """New ids by part and old id, for those that more than one part has or had; copies that share keep one."""
    shares = {row.id: json.loads(row.placement).get("shares") for row in connection.execute(_PARTS, scene)}
    for key, values in told:
        if key[0] == "parts" and values is not None:
            shares[key[1]] = shares.get(key[1]) or values["placement"].get("shares")
    held = {(row.part_id, row.id) for row in connection.execute(_DRAWINGS, scene)}
    held |= {(key[1], key[2]) for key, _ in told if key[0] == "drawings"}
    owners = defaultdict(set)
    for part_id, drawing_id in held:
        owners[drawing_id].add(shares.get(part_id) or part_id)
    return {
        (part_id, drawing_id): f"{shares.get(part_id) or part_id}-{drawing_id}"
        for part_id, drawing_id in held
        if len(owners[drawing_id]) > 1
    }


def downgrade() -> None:
    """Unique ids stay; an older version reads them."""
