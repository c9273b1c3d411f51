"""Add the switch of depth, and cuts from one camera to another."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # A library may have been brought back to an older number with the table as it is now, as 0011 allows for too.
    if "depth" in {column["name"] for column in sa.inspect(op.get_bind()).get_columns("scenes")}:
        return
    with op.batch_alter_table("scenes") as batch:
        batch.add_column(sa.Column("depth", sa.Boolean(), nullable=False, server_default=sa.false()))
        batch.add_column(sa.Column("cuts", sa.JSON(), nullable=False, server_default="[]"))


def downgrade() -> None:
    with op.batch_alter_table("scenes") as batch:
        batch.drop_column("cuts")
        batch.drop_column("depth")
