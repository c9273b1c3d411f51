"""Add the links that drive channels of parts."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "links",
        sa.Column("scene_id", sa.String(), nullable=False),
        sa.Column("part_id", sa.String(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("link", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["scene_id"], ["scenes.id"], name=op.f("fk_links_scene_id_scenes"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("scene_id", "part_id", "id", name=op.f("pk_links")),
    )


def downgrade() -> None:
    op.drop_table("links")
