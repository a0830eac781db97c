"""The tables of a yard file. docs/yard-file.md describes them for readers of the file."""

import sqlalchemy as sa

from yardtoll.store import records

APPLICATION_ID = 0x59544F4C  # "YTOL"
SCHEMA_VERSION = 11
"""Kept in user_version; migrations/versions/ has one file a version."""

metadata = sa.MetaData()


def _table(name: str, *columns: sa.Column) -> sa.Table:  # type: ignore[type-arg]
    return sa.Table(name, metadata, sa.Column("id", sa.Integer, primary_key=True), *columns)


def _text(name: str, *, null: bool = False) -> sa.Column[str]:
    return sa.Column(name, sa.Text, nullable=null)


def _real(name: str, *, null: bool = False) -> sa.Column[float]:
    return sa.Column(name, sa.Float, nullable=null)


def _flag(name: str) -> sa.Column[bool]:
    return sa.Column(name, sa.Boolean, nullable=False, default=False)


def _link(name: str, target: str, *, null: bool = False) -> sa.Column[int]:
    return sa.Column(name, sa.ForeignKey(f"{target}.id"), nullable=null)


yard = _table(
    "yard",
    _text("name"),
    _text("created_at"),
    _text("rule"),
    _real("repeatability"),
    sa.Column("yardstick_id", sa.Integer, nullable=True),
    _text("uid"),
)
station = _table(
    "station",
    _text("name"),
    _real("rated_wh"),
    _real("rated_w"),
    _text("chemistry"),
    _text("source"),
    _text("note"),
    sa.Column("base_id", sa.Integer, nullable=True),
    sa.Column("packs_wh", sa.JSON, nullable=False),
    sa.Column("units", sa.Integer, nullable=False),
    sa.Column("tags", sa.JSON, nullable=False),
    _flag("removed"),
)
meter = _table(
    "meter",
    _text("name"),
    _text("profile"),
    _text("address"),
    _real("reading_share"),
    _real("floor_w"),
    _real("own_draw_w"),
    *(_real(name) for name in ("common_share", "phase_deg")),
    *(_real(name, null=True) for name in ("step_wh", "volts_share", "volts_floor_v")),
    *(_real(name, null=True) for name in ("hertz_floor_hz", "max_w", "max_a", "max_minutes")),
    _text("place"),
    _flag("removed"),
)
load = _table(
    "load",
    _text("name"),
    _text("kind"),
    sa.Column("count", sa.Integer, nullable=False),
    sa.Column("settings", sa.JSON, nullable=False),
    *(_real(name, null=True) for name in ("range_low_w", "range_high_w", "range_step_w")),
    *(_real(name) for name in ("inrush", "power_factor", "warm_up_s", "cold_share")),
    _flag("removed"),
)
claim = _table(
    "claim",
    _link("station_id", "station"),
    _text("kind"),
    _real("value", null=True),
    *(_text(name) for name in ("words", "condition", "source", "note", "text")),
    *(_text(name) for name in ("wording", "judged_as")),
    _flag("removed"),
)
receiving = _table(
    "receiving",
    _link("station_id", "station"),
    *(_text(name) for name in ("received_on", "currency", "firmware", "lift", "note")),
    *(_real(name, null=True) for name in ("price", "list_price", "soc_percent", "weight_kg")),
    _flag("conditioned"),
    sa.Column("accessories", sa.JSON, nullable=False),
    _flag("removed"),
)
photo = _table(
    "photo",
    _link("station_id", "station"),
    *(_text(name) for name in ("name", "media_type", "caption", "added_at")),
    sa.Column("size_bytes", sa.Integer, nullable=False),
    _flag("removed"),
)
photo_data = sa.Table(
    "photo_data",
    metadata,
    sa.Column("photo_id", sa.ForeignKey("photo.id"), primary_key=True),
    sa.Column("data", sa.LargeBinary, nullable=False),
)
observation = _table(
    "observation",
    _link("station_id", "station"),
    *(_text(name) for name in ("subject", "words", "observed_on")),
    _flag("agrees"),
    _flag("removed"),
)
review = _table(
    "review",
    _link("station_id", "station"),
    *(_text(name) for name in ("summary", "pros", "cons")),
    _flag("removed"),
)
score_point = _table(
    "score_point",
    *(_text(name) for name in ("title", "quantity", "sign")),
    _real("limit"),
    _real("half_limit", null=True),
    _real("points"),
    sa.Column("position", sa.Integer, nullable=False),
    _flag("removed"),
)
circuit = _table("circuit", _text("name"), _real("breaker_a"), _real("volts"), _flag("removed"))
cord = _table(
    "cord",
    _text("name"),
    _real("length_m"),
    _text("gauge"),
    _real("rated_a", null=True),
    _flag("removed"),
)
solar_array = _table(
    "solar_array",
    _text("name"),
    *(sa.Column(name, sa.Integer, nullable=False) for name in ("series", "parallel")),
    *(_real(name) for name in ("module_w", "voc_v", "vmp_v", "isc_a", "imp_a")),
    *(_real(name) for name in ("beta_voc", "gamma", "tilt_deg", "azimuth_deg", "wiring_loss")),
    _flag("on_ground"),
    _flag("removed"),
)
site = _table(
    "site",
    *(
        _real(name, null=True)
        for name in ("latitude", "longitude", "price_per_kwh", "temperature_c")
    ),
    *(_real(name, null=True) for name in ("coldest_c", "hottest_c")),
    *(_real(name) for name in ("altitude_m", "horizon_deg")),
    *(_real(f"obstacle_{name}_deg") for name in ("from", "to", "height")),
    *(_text(name) for name in ("currency", "lift_scale", "time_zone")),
    _real("sensor_share"),
)
yardstick = _table(
    "yardstick", _text("name"), _real("limit_ratio"), _text("basis"), _flag("removed")
)
run = _table(
    "run",
    _link("station_id", "station"),
    sa.Column("number", sa.Integer, nullable=False),
    _text("method"),
    _text("state"),
    _text("origin"),
    _text("started_at"),
    _text("ended_at", null=True),
    _link("meter_id", "meter", null=True),
    _link("load_id", "load", null=True),
    _real("target_w", null=True),
    _real("own_draw_w"),
    _real("soc_from"),
    _real("soc_to"),
    _text("void_reason"),
    _text("ended_by"),
    sa.Column("explained", sa.JSON, nullable=False),
    sa.Column("conditions", sa.JSON, nullable=False),
)
mark = _table(
    "mark",
    _link("run_id", "run"),
    _real("time_s"),
    _text("word"),
    _flag("ends_run"),
    _flag("withdrawn"),
    _real("within_s", null=True),
    _flag("starts_run"),
    sa.Column("seen", sa.Boolean, nullable=False, default=True),
)
reading = _table(
    "reading",
    _link("run_id", "run"),
    _real("time_s"),
    _text("kind"),
    _real("value"),
    _text("subject"),
    _flag("withdrawn"),
    _real("step", null=True),
    _real("within_s", null=True),
)
entry = _table(
    "entry",
    _link("run_id", "run"),
    sa.Column("position", sa.Integer, nullable=False),
    sa.Column("fields", sa.JSON, nullable=False),
    _flag("withdrawn"),
)
price = _table(
    "price",
    _link("station_id", "station"),
    *(_text(name) for name in ("kind", "currency", "day", "words")),
    _real("amount"),
    sa.Column("units", sa.Integer, nullable=False),
    _flag("removed"),
)
size_class = _table(
    "size_class", _text("name"), _real("low_wh"), _real("high_wh"), _flag("removed")
)
score_template = _table(
    "score_template",
    _text("name"),
    sa.Column("version", sa.Integer, nullable=False),
    sa.Column("points", sa.JSON, nullable=False),
    _text("made_on"),
    _flag("removed"),
)
appliance = _table(
    "appliance",
    _text("name"),
    *(_real(name) for name in ("watts", "duty", "low_share", "high_share")),
    _real("inrush_w", null=True),
    _link("run_id", "run", null=True),
    _text("note"),
    _flag("removed"),
)
outage = _table(
    "outage",
    _link("station_id", "station"),
    *(_text(name) for name in ("name", "begins_at", "sun", "weather", "note")),
    _real("hours"),
    *(sa.Column(name, sa.JSON, nullable=False) for name in ("uses", "feeds")),
    *(sa.Column(name, sa.JSON, nullable=False) for name in ("array_ids", "packs_wh")),
    *(sa.Column(name, sa.Integer, nullable=False) for name in ("more_panels", "units")),
    *(_real(name, null=True) for name in ("cap_w", "store_wh", "overhead_w", "conversion")),
    *(_link(name, "run", null=True) for name in ("sun_run_id", "run_id")),
    _flag("removed"),
)
recording = _table(
    "recording",
    _link("run_id", "run"),
    *(_text(name) for name in ("role", "instrument")),
    _link("meter_id", "meter", null=True),
    _text("name"),
    sa.Column("quantities", sa.JSON, nullable=False),
    _real("offset_s"),
    _real("clock_s", null=True),
    _text("clock_basis", null=True),
    sa.Column("notices", sa.JSON, nullable=False),
    _flag("withdrawn"),
)
recording_block = sa.Table(
    "recording_block",
    metadata,
    sa.Column("recording_id", sa.ForeignKey("recording.id"), primary_key=True),
    sa.Column("seq", sa.Integer, primary_key=True),
    sa.Column("row_count", sa.Integer, nullable=False),
    sa.Column("kept_at_s", sa.Float, nullable=False),
    sa.Column("kept_boot_s", sa.Float, nullable=True),
    sa.Column("boot_id", sa.Text, nullable=True),
    # Of 32 bits without a sign, which is more than a server's integer.
    sa.Column("checksum", sa.Integer().with_variant(sa.BigInteger, "postgresql"), nullable=True),
    sa.Column("data", sa.LargeBinary, nullable=False),
)

standing = sa.Table(
    "standing",
    metadata,
    sa.Column("station_id", sa.ForeignKey("station.id"), primary_key=True),
    sa.Column("asked", sa.Text, primary_key=True),
    sa.Column("quantity", sa.Text, primary_key=True),
    sa.Column("made_of", sa.Text, nullable=False),
    sa.Column("answer", sa.JSON, nullable=False),
)
"""Figures kept ready, with what they were made of; nothing is lost with them."""

TABLE_OF: dict[type, sa.Table] = {
    records.YardInfo: yard,
    records.Station: station,
    records.Meter: meter,
    records.Load: load,
    records.StoredClaim: claim,
    records.Receiving: receiving,
    records.Photo: photo,
    records.Observation: observation,
    records.Review: review,
    records.StoredScorePoint: score_point,
    records.StoredCircuit: circuit,
    records.StoredCord: cord,
    records.SolarArray: solar_array,
    records.Site: site,
    records.StoredYardstick: yardstick,
    records.Run: run,
    records.Mark: mark,
    records.Reading: reading,
    records.Entry: entry,
    records.Recording: recording,
    records.StoredPrice: price,
    records.SizeClass: size_class,
    records.ScoreTemplate: score_template,
    records.Appliance: appliance,
    records.StoredOutage: outage,
}
