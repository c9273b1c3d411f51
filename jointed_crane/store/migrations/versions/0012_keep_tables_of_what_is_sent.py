"""Keep the table whose rows fill a template that is sent."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("sendings") as batch:
        batch.add_column(sa.Column("filling", sa.JSON(), nullable=False, server_default="{}"))


def downgrade() -> None:
    with op.batch_alter_table("sendings") as batch:
        batch.drop_column("filling")
