"""Keep what is being sent and what was sent, with the scene as it was then."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "sendings",
        sa.Column("id", sa.String, nullable=False),
        sa.Column("scene_id", sa.String, nullable=False),
        sa.Column("scene_version", sa.Integer, nullable=False),
        sa.Column("scene", sa.LargeBinary, nullable=False),
        sa.Column("art", sa.JSON, nullable=False),
        sa.Column("way", sa.String, nullable=False),
        sa.Column("choices", sa.JSON, nullable=False),
        sa.Column("file_name", sa.String, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("done", sa.Integer, nullable=False),
        sa.Column("of", sa.Integer, nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("took", sa.Double, nullable=False),
        sa.Column("fault", sa.String, nullable=False),
        sa.Column("owner", sa.String, nullable=False),
        sa.Column("lease", sa.Double, nullable=False),
        sa.Column("tries", sa.Integer, nullable=False),
        sa.Column("is_deleted", sa.Boolean, nullable=False),
        sa.Column("made_at", sa.DateTime, nullable=False),
        sa.ForeignKeyConstraint(
            ["scene_id"], ["scenes.id"], name="fk_sendings_scene_id_scenes", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_sendings"),
        if_not_exists=True,
    )


def downgrade() -> None:
    op.drop_table("sendings")
