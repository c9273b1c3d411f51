"""Keep what people have set for themselves with the library."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "settings",
        sa.Column("name", sa.String, nullable=False),
        sa.Column("value", sa.JSON, nullable=False),
        sa.PrimaryKeyConstraint("name", name="pk_settings"),
        if_not_exists=True,
    )


def downgrade() -> None:
    op.drop_table("settings")
