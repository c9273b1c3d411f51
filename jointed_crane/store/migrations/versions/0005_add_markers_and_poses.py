"""Add markers in time and poses kept by name."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def _table(name: str, *columns: sa.Column) -> None:
    op.create_table(
        name,
        sa.Column("scene_id", sa.String(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        *columns,
        sa.ForeignKeyConstraint(
            ["scene_id"], ["scenes.id"], name=op.f(f"fk_{name}_scene_id_scenes"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("scene_id", "id", name=op.f(f"pk_{name}")),
    )


def upgrade() -> None:
    _table("markers", sa.Column("frame", sa.Double(), nullable=False), sa.Column("until", sa.Double()))
    _table("poses", sa.Column("values", sa.JSON(), nullable=False))


def downgrade() -> None:
    op.drop_table("poses")
    op.drop_table("markers")
