"""The review: what was seen by eye, the reviewer's words, the scorecard."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"

# The scorecard as shipped with this version; later versions may ship another.
POINTS = (
    ("Full from the wall in under 4 h", "full_charge_h", "<=", 4.0, None),
    ("Pass-through", "pass_through", "yes", 1.0, None),
    ("Pure sine at nominal volts", "pure_sine", "yes", 1.0, None),
    ("Regulated DC", "regulated_dc", "yes", 1.0, None),
    ("Informative display", "informative_display", "yes", 1.0, None),
    ("No unasked auto-off", "no_auto_off", "yes", 1.0, None),
    ("UPS", "ups", "yes", 1.0, None),
    ("85 % of rated delivered", "usable_ratio", ">=", 0.85, None),
    ("Full from the sun in under 5 h", "solar_full_h", "<=", 5.0, None),
    ("Price per Wh", "price_per_wh", "<=", 0.80, 1.00),
)
YARDSTICKS = (
    ("DC, pass", 0.85, "usable_ratio_dc"),
    ("Full load, typical", 0.75, "usable_ratio_full_load"),
    ("Round trip, good", 0.80, "round_trip"),
    ("Conversion, good", 0.88, "conversion"),
    ("Price per rated Wh", 0.80, "price_per_wh"),
)


def _id() -> sa.Column[int]:
    return sa.Column("id", sa.Integer, primary_key=True)


def _texts(*names: str) -> list[sa.Column[str]]:
    return [sa.Column(name, sa.Text, nullable=False, server_default="") for name in names]


def _flag(name: str) -> sa.Column[bool]:
    return sa.Column(name, sa.Boolean, nullable=False, server_default="0")


def _of_station() -> sa.Column[int]:
    return sa.Column("station_id", sa.Integer, sa.ForeignKey("station.id"), nullable=False)


def upgrade() -> None:
    """New tables only; an older yard gets the shipped scorecard and the further yardsticks."""
    op.create_table(
        "observation",
        _id(),
        _of_station(),
        *_texts("subject", "words", "observed_on"),
        _flag("agrees"),
        _flag("removed"),
    )
    op.create_table(
        "review", _id(), _of_station(), *_texts("summary", "pros", "cons"), _flag("removed")
    )
    points = op.create_table(
        "score_point",
        _id(),
        *_texts("title", "quantity", "sign"),
        sa.Column("limit", sa.Float, nullable=False),
        sa.Column("half_limit", sa.Float, nullable=True),
        sa.Column("points", sa.Float, nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        _flag("removed"),
    )
    op.bulk_insert(
        points,
        [
            {
                "title": title,
                "quantity": quantity,
                "sign": sign,
                "limit": limit,
                "half_limit": half,
                "points": 1.0,
                "position": position,
                "removed": False,
            }
            for position, (title, quantity, sign, limit, half) in enumerate(POINTS)
        ],
    )
    # A yard that is being made gets its yardsticks from the program; one that is brought up to date
    # gets those that are new.
    count = op.get_bind().execute(sa.text("SELECT count(*) FROM yardstick")).scalar()
    if count:
        for name, limit, basis in YARDSTICKS:
            op.get_bind().execute(
                sa.text(
                    "INSERT INTO yardstick (name, limit_ratio, basis, removed) "
                    "VALUES (:name, :limit, :basis, 0)"
                ),
                {"name": name, "limit": limit, "basis": basis},
            )
