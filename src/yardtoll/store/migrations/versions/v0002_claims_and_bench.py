"""Claims, receiving, photos; loads with settings; circuits, cords, arrays, the site."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def _id() -> sa.Column[int]:
    return sa.Column("id", sa.Integer, primary_key=True)


def _texts(*names: str) -> list[sa.Column[str]]:
    return [sa.Column(name, sa.Text, nullable=False, server_default="") for name in names]


def _reals(*names: str, null: bool = False, default: str = "0") -> list[sa.Column[float]]:
    if null:
        return [sa.Column(name, sa.Float, nullable=True) for name in names]
    return [sa.Column(name, sa.Float, nullable=False, server_default=default) for name in names]


def _removed() -> sa.Column[bool]:
    return sa.Column("removed", sa.Boolean, nullable=False, server_default="0")


def _of_station() -> sa.Column[int]:
    return sa.Column("station_id", sa.Integer, sa.ForeignKey("station.id"), nullable=False)


def upgrade() -> None:
    """From version 1: ratings become claims, each load one with a single setting."""
    _create_tables()
    _change_loads()
    with op.batch_alter_table("meter") as meter:
        for column in _reals("max_a", "max_minutes", null=True):
            meter.add_column(column)
        meter.add_column(sa.Column("place", sa.Text, nullable=False, server_default="AC outlet"))
    op.execute("UPDATE run SET method = 'capacity_ac' WHERE method = 'discharge_to_empty'")
    op.execute(
        "INSERT INTO claim (station_id, kind, value, source, removed) "
        "SELECT id, 'rated_wh', rated_wh, source, 0 FROM station"
    )
    op.execute(
        "INSERT INTO claim (station_id, kind, value, source, removed) "
        "SELECT id, 'continuous_w', rated_w, source, 0 FROM station"
    )
    op.execute(
        "INSERT INTO claim (station_id, kind, words, source, removed) "
        "SELECT id, 'chemistry', chemistry, source, 0 FROM station WHERE chemistry <> ''"
    )
    op.execute(
        "INSERT INTO site (id, lift_scale) VALUES (1, 'one hand; two hands; two people; a trolley')"
    )


def _create_tables() -> None:
    op.create_table(
        "claim",
        _id(),
        _of_station(),
        *_texts("kind", "words", "condition", "source", "note", "text"),
        *_reals("value", null=True),
        _removed(),
    )
    op.create_table(
        "receiving",
        _id(),
        _of_station(),
        *_texts("received_on", "currency", "firmware", "lift", "note"),
        *_reals("price", "list_price", "soc_percent", "weight_kg", null=True),
        sa.Column("conditioned", sa.Boolean, nullable=False),
        sa.Column("accessories", sa.JSON, nullable=False),
        _removed(),
    )
    op.create_table(
        "photo",
        _id(),
        _of_station(),
        *_texts("name", "media_type", "caption", "added_at"),
        sa.Column("size_bytes", sa.Integer, nullable=False),
        _removed(),
    )
    op.create_table(
        "photo_data",
        sa.Column("photo_id", sa.Integer, sa.ForeignKey("photo.id"), primary_key=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.create_table("circuit", _id(), *_texts("name"), *_reals("breaker_a", "volts"), _removed())
    op.create_table(
        "cord",
        _id(),
        *_texts("name", "gauge"),
        *_reals("length_m"),
        *_reals("rated_a", null=True),
        _removed(),
    )
    op.create_table(
        "solar_array",
        _id(),
        *_texts("name"),
        *(sa.Column(name, sa.Integer, nullable=False) for name in ("series", "parallel")),
        *_reals("module_w", "voc_v", "vmp_v", "isc_a", "imp_a"),
        _removed(),
    )
    op.create_table(
        "site",
        _id(),
        *_reals("latitude", "longitude", "price_per_kwh", "temperature_c", null=True),
        *_reals("altitude_m", "horizon_deg"),
        *_texts("currency", "lift_scale"),
    )


def _change_loads() -> None:
    with op.batch_alter_table("load") as load:
        load.add_column(sa.Column("kind", sa.Text, nullable=False, server_default="resistive"))
        load.add_column(sa.Column("count", sa.Integer, nullable=False, server_default="1"))
        load.add_column(sa.Column("settings", sa.JSON, nullable=False, server_default="[]"))
        for column in _reals("range_low_w", "range_high_w", "range_step_w", null=True):
            load.add_column(column)
        for column in _reals("inrush", "power_factor", default="1"):
            load.add_column(column)
        load.add_column(*_reals("warm_up_s", default="60"))
        load.add_column(*_reals("cold_share"))
    op.execute(
        "UPDATE load SET settings = json_array(json_object('name', 'on', 'watts', watts, "
        "'measured', json('false')))"
    )
    with op.batch_alter_table("load") as load:
        load.drop_column("watts")
