"""Keep the table whose rows fill a template that is sent."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # A library may have been brought back to an older number with the table as it is now, as 0011 allows for too.
    if "filling" in {column["name"] for column in sa.inspect(op.get_bind()).get_columns("sendings")}:
        return
    with op.batch_alter_table("sendings") as batch:
        batch.add_column(sa.Column("filling", sa.JSON(), nullable=False, server_default="{}"))


def downgrade() -> None:
    with op.batch_alter_table("sendings") as batch:
        batch.drop_column("filling")
