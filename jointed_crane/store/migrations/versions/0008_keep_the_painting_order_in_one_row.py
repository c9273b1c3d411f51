"""Keep the painting order in one row: a place in each part's row made one part to the front write all of them."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

_PARTS = sa.text("SELECT id, position FROM parts WHERE scene_id = :scene")
_JOURNAL = sa.text("SELECT id, number, before, after FROM journal WHERE scene_id = :scene ORDER BY number")


def upgrade() -> None:
    connection = op.get_bind()
    with op.batch_alter_table("scenes") as batch:
        batch.add_column(sa.Column("painting", sa.JSON(), nullable=False, server_default="[]"))
    for scene in connection.execute(sa.text("SELECT id, journal_at FROM scenes")).all():
        now = {row.id: row.position for row in connection.execute(_PARTS, {"scene": scene.id})}
        connection.execute(
            sa.text("UPDATE scenes SET painting = :painting WHERE id = :id"),
            {"painting": json.dumps(_order(now)), "id": scene.id},
        )
        journal = connection.execute(_JOURNAL, {"scene": scene.id}).all()
        places = dict(now)
        for row in reversed([row for row in journal if row.number <= scene.journal_at]):
            places = _with_order_told(connection, row, "before", places)
        places = dict(now)
        for row in [row for row in journal if row.number > scene.journal_at]:
            places = _with_order_told(connection, row, "after", places)
    op.execute("ALTER TABLE parts DROP COLUMN position")


def _order(places: dict[str, int]) -> list[str]:
    return sorted(places, key=lambda part_id: places[part_id])


def _with_order_told(connection: sa.Connection, row: sa.Row, way: str, places: dict[str, int]) -> dict[str, int]:
    """Tell the painting order in a row of the journal on whose one side parts have these places; the places on the other
    side, which it leads to.
    """
    changes = {"before": json.loads(row.before), "after": json.loads(row.after)}
    result = dict(places)
    for key, values in changes[way]:
        if key[0] == "parts" and values is None:
            result.pop(key[1], None)
        elif key[0] == "parts" and "position" in values:
            result[key[1]] = values["position"]
    orders = {way: _order(result), "after" if way == "before" else "before": _order(places)}
    for side, told in changes.items():
        for key, values in told:
            if key[0] == "parts" and values is not None:
                values.pop("position", None)
        if orders["before"] != orders["after"]:
            told.append([["painting"], {"painting": orders[side]}])
    connection.execute(
        sa.text("UPDATE journal SET before = :before, after = :after WHERE id = :id"),
        {"id": row.id, "before": json.dumps(changes["before"]), "after": json.dumps(changes["after"])},
    )
    return result


def downgrade() -> None:
    raise NotImplementedError("The place of each part is kept no more.")
