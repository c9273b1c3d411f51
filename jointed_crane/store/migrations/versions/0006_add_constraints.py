"""Add the constraints of parts."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "constraints",
        sa.Column("scene_id", sa.String(), nullable=False),
        sa.Column("part_id", sa.String(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("rule", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(
            ["scene_id"], ["scenes.id"], name=op.f("fk_constraints_scene_id_scenes"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("scene_id", "part_id", "id", name=op.f("pk_constraints")),
    )


def downgrade() -> None:
    op.drop_table("constraints")
