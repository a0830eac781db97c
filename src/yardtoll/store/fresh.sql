BEGIN TRANSACTION;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0011');
CREATE TABLE appliance (
	id INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	watts FLOAT NOT NULL, 
	duty FLOAT NOT NULL, 
	low_share FLOAT NOT NULL, 
	high_share FLOAT NOT NULL, 
	inrush_w FLOAT, 
	run_id INTEGER, 
	note TEXT NOT NULL, 
	removed BOOLEAN NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(run_id) REFERENCES run (id)
);
CREATE TABLE circuit (
	id INTEGER NOT NULL, 
	name TEXT DEFAULT '' NOT NULL, 
	breaker_a FLOAT DEFAULT '0' NOT NULL, 
	volts FLOAT DEFAULT '0' NOT NULL, 
	removed BOOLEAN DEFAULT '0' NOT NULL, 
	PRIMARY KEY (id)
);
CREATE TABLE claim (
	id INTEGER NOT NULL, 
	station_id INTEGER NOT NULL, 
	kind TEXT DEFAULT '' NOT NULL, 
	words TEXT DEFAULT '' NOT NULL, 
	condition TEXT DEFAULT '' NOT NULL, 
	source TEXT DEFAULT '' NOT NULL, 
	note TEXT DEFAULT '' NOT NULL, 
	text TEXT DEFAULT '' NOT NULL, 
	value FLOAT, 
	removed BOOLEAN DEFAULT '0' NOT NULL, wording TEXT DEFAULT '' NOT NULL, judged_as TEXT DEFAULT '' NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(station_id) REFERENCES station (id)
);
CREATE TABLE cord (
	id INTEGER NOT NULL, 
	name TEXT DEFAULT '' NOT NULL, 
	gauge TEXT DEFAULT '' NOT NULL, 
	length_m FLOAT DEFAULT '0' NOT NULL, 
	rated_a FLOAT, 
	removed BOOLEAN DEFAULT '0' NOT NULL, 
	PRIMARY KEY (id)
);
CREATE TABLE entry (
	id INTEGER NOT NULL, 
	run_id INTEGER NOT NULL, 
	position INTEGER NOT NULL, 
	fields JSON NOT NULL, 
	withdrawn BOOLEAN NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(run_id) REFERENCES run (id)
);
CREATE TABLE "load" (
	id INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	removed BOOLEAN NOT NULL, 
	kind TEXT DEFAULT 'resistive' NOT NULL, 
	count INTEGER DEFAULT '1' NOT NULL, 
	settings JSON DEFAULT '[]' NOT NULL, 
	range_low_w FLOAT, 
	range_high_w FLOAT, 
	range_step_w FLOAT, 
	inrush FLOAT DEFAULT '1' NOT NULL, 
	power_factor FLOAT DEFAULT '1' NOT NULL, 
	warm_up_s FLOAT DEFAULT '60' NOT NULL, 
	cold_share FLOAT DEFAULT '0' NOT NULL, 
	PRIMARY KEY (id)
);
CREATE TABLE mark (
	id INTEGER NOT NULL, 
	run_id INTEGER NOT NULL, 
	time_s FLOAT NOT NULL, 
	word TEXT NOT NULL, 
	withdrawn BOOLEAN NOT NULL, ends_run BOOLEAN DEFAULT '0' NOT NULL, within_s FLOAT, starts_run BOOLEAN DEFAULT 0 NOT NULL, seen BOOLEAN DEFAULT 1 NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(run_id) REFERENCES run (id)
);
CREATE TABLE meter (
	id INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	profile TEXT NOT NULL, 
	address TEXT NOT NULL, 
	reading_share FLOAT NOT NULL, 
	floor_w FLOAT NOT NULL, 
	own_draw_w FLOAT NOT NULL, 
	max_w FLOAT, 
	removed BOOLEAN NOT NULL, max_a FLOAT, max_minutes FLOAT, place TEXT DEFAULT 'AC outlet' NOT NULL, common_share FLOAT DEFAULT '0.5' NOT NULL, phase_deg FLOAT DEFAULT '0' NOT NULL, step_wh FLOAT, volts_share FLOAT, volts_floor_v FLOAT, hertz_floor_hz FLOAT, 
	PRIMARY KEY (id)
);
CREATE TABLE observation (
	id INTEGER NOT NULL, 
	station_id INTEGER NOT NULL, 
	subject TEXT DEFAULT '' NOT NULL, 
	words TEXT DEFAULT '' NOT NULL, 
	observed_on TEXT DEFAULT '' NOT NULL, 
	agrees BOOLEAN DEFAULT '0' NOT NULL, 
	removed BOOLEAN DEFAULT '0' NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(station_id) REFERENCES station (id)
);
CREATE TABLE outage (
	id INTEGER NOT NULL, 
	station_id INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	begins_at TEXT NOT NULL, 
	sun TEXT NOT NULL, 
	weather TEXT NOT NULL, 
	note TEXT NOT NULL, 
	hours FLOAT NOT NULL, 
	uses JSON NOT NULL, 
	feeds JSON NOT NULL, 
	array_ids JSON NOT NULL, 
	packs_wh JSON NOT NULL, 
	more_panels INTEGER NOT NULL, 
	units INTEGER NOT NULL, 
	cap_w FLOAT, 
	store_wh FLOAT, 
	overhead_w FLOAT, 
	conversion FLOAT, 
	sun_run_id INTEGER, 
	run_id INTEGER, 
	removed BOOLEAN NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(station_id) REFERENCES station (id), 
	FOREIGN KEY(sun_run_id) REFERENCES run (id), 
	FOREIGN KEY(run_id) REFERENCES run (id)
);
CREATE TABLE photo (
	id INTEGER NOT NULL, 
	station_id INTEGER NOT NULL, 
	name TEXT DEFAULT '' NOT NULL, 
	media_type TEXT DEFAULT '' NOT NULL, 
	caption TEXT DEFAULT '' NOT NULL, 
	added_at TEXT DEFAULT '' NOT NULL, 
	size_bytes INTEGER NOT NULL, 
	removed BOOLEAN DEFAULT '0' NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(station_id) REFERENCES station (id)
);
CREATE TABLE photo_data (
	photo_id INTEGER NOT NULL, 
	data BLOB NOT NULL, 
	PRIMARY KEY (photo_id), 
	FOREIGN KEY(photo_id) REFERENCES photo (id)
);
CREATE TABLE price (
	id INTEGER NOT NULL, 
	station_id INTEGER NOT NULL, 
	kind TEXT NOT NULL, 
	currency TEXT NOT NULL, 
	day TEXT NOT NULL, 
	words TEXT NOT NULL, 
	amount FLOAT NOT NULL, 
	units INTEGER NOT NULL, 
	removed BOOLEAN NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(station_id) REFERENCES station (id)
);
CREATE TABLE reading (
	id INTEGER NOT NULL, 
	run_id INTEGER NOT NULL, 
	time_s FLOAT NOT NULL, 
	kind TEXT NOT NULL, 
	value FLOAT NOT NULL, 
	withdrawn BOOLEAN NOT NULL, subject TEXT DEFAULT '' NOT NULL, step FLOAT, within_s FLOAT, 
	PRIMARY KEY (id), 
	FOREIGN KEY(run_id) REFERENCES run (id)
);
CREATE TABLE receiving (
	id INTEGER NOT NULL, 
	station_id INTEGER NOT NULL, 
	received_on TEXT DEFAULT '' NOT NULL, 
	currency TEXT DEFAULT '' NOT NULL, 
	firmware TEXT DEFAULT '' NOT NULL, 
	lift TEXT DEFAULT '' NOT NULL, 
	note TEXT DEFAULT '' NOT NULL, 
	price FLOAT, 
	list_price FLOAT, 
	soc_percent FLOAT, 
	weight_kg FLOAT, 
	conditioned BOOLEAN NOT NULL, 
	accessories JSON NOT NULL, 
	removed BOOLEAN DEFAULT '0' NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(station_id) REFERENCES station (id)
);
CREATE TABLE recording (
	id INTEGER NOT NULL, 
	run_id INTEGER NOT NULL, 
	role TEXT NOT NULL, 
	instrument TEXT NOT NULL, 
	meter_id INTEGER, 
	name TEXT NOT NULL, 
	quantities JSON NOT NULL, 
	offset_s FLOAT NOT NULL, 
	clock_s FLOAT, 
	clock_basis TEXT, 
	notices JSON NOT NULL, 
	withdrawn BOOLEAN NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(run_id) REFERENCES run (id), 
	FOREIGN KEY(meter_id) REFERENCES meter (id)
);
CREATE TABLE recording_block (
	recording_id INTEGER NOT NULL, 
	seq INTEGER NOT NULL, 
	row_count INTEGER NOT NULL, 
	kept_at_s FLOAT NOT NULL, 
	data BLOB NOT NULL, kept_boot_s FLOAT, boot_id TEXT, checksum INTEGER, 
	PRIMARY KEY (recording_id, seq), 
	FOREIGN KEY(recording_id) REFERENCES recording (id)
);
CREATE TABLE review (
	id INTEGER NOT NULL, 
	station_id INTEGER NOT NULL, 
	summary TEXT DEFAULT '' NOT NULL, 
	pros TEXT DEFAULT '' NOT NULL, 
	cons TEXT DEFAULT '' NOT NULL, 
	removed BOOLEAN DEFAULT '0' NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(station_id) REFERENCES station (id)
);
CREATE TABLE run (
	id INTEGER NOT NULL, 
	station_id INTEGER NOT NULL, 
	number INTEGER NOT NULL, 
	method TEXT NOT NULL, 
	state TEXT NOT NULL, 
	origin TEXT NOT NULL, 
	started_at TEXT NOT NULL, 
	void_reason TEXT NOT NULL, 
	ended_at TEXT, 
	meter_id INTEGER, 
	load_id INTEGER, 
	target_w FLOAT, 
	own_draw_w FLOAT NOT NULL, 
	soc_from FLOAT NOT NULL, 
	soc_to FLOAT NOT NULL, 
	conditions JSON NOT NULL, ended_by TEXT DEFAULT '' NOT NULL, explained JSON DEFAULT '{}' NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(station_id) REFERENCES station (id), 
	FOREIGN KEY(meter_id) REFERENCES meter (id), 
	FOREIGN KEY(load_id) REFERENCES load (id)
);
CREATE TABLE score_point (
	id INTEGER NOT NULL, 
	title TEXT DEFAULT '' NOT NULL, 
	quantity TEXT DEFAULT '' NOT NULL, 
	sign TEXT DEFAULT '' NOT NULL, 
	"limit" FLOAT NOT NULL, 
	half_limit FLOAT, 
	points FLOAT NOT NULL, 
	position INTEGER NOT NULL, 
	removed BOOLEAN DEFAULT '0' NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "score_point" VALUES(1,'Full from the wall in under 4 h','full_charge_h','<=',4.0,NULL,1.0,0,0);
INSERT INTO "score_point" VALUES(2,'Pass-through','pass_through','yes',1.0,NULL,1.0,1,0);
INSERT INTO "score_point" VALUES(3,'Pure sine at nominal volts','pure_sine','yes',1.0,NULL,1.0,2,0);
INSERT INTO "score_point" VALUES(4,'Regulated DC','regulated_dc','yes',1.0,NULL,1.0,3,0);
INSERT INTO "score_point" VALUES(5,'Informative display','informative_display','yes',1.0,NULL,1.0,4,0);
INSERT INTO "score_point" VALUES(6,'No unasked auto-off','no_auto_off','yes',1.0,NULL,1.0,5,0);
INSERT INTO "score_point" VALUES(7,'UPS','ups','yes',1.0,NULL,1.0,6,0);
INSERT INTO "score_point" VALUES(8,'85 % of rated delivered','usable_ratio','>=',0.85,NULL,1.0,7,0);
INSERT INTO "score_point" VALUES(9,'Full from the sun in under 5 h','solar_full_h','<=',5.0,NULL,1.0,8,0);
INSERT INTO "score_point" VALUES(10,'Price per Wh','price_per_wh','<=',0.8,1.0,1.0,9,0);
CREATE TABLE score_template (
	id INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	version INTEGER NOT NULL, 
	points JSON NOT NULL, 
	made_on TEXT NOT NULL, 
	removed BOOLEAN NOT NULL, 
	PRIMARY KEY (id)
);
CREATE TABLE site (
	id INTEGER NOT NULL, 
	latitude FLOAT, 
	longitude FLOAT, 
	price_per_kwh FLOAT, 
	temperature_c FLOAT, 
	altitude_m FLOAT DEFAULT '0' NOT NULL, 
	horizon_deg FLOAT DEFAULT '0' NOT NULL, 
	currency TEXT DEFAULT '' NOT NULL, 
	lift_scale TEXT DEFAULT '' NOT NULL, coldest_c FLOAT, hottest_c FLOAT, obstacle_from_deg FLOAT DEFAULT '0' NOT NULL, obstacle_to_deg FLOAT DEFAULT '0' NOT NULL, obstacle_height_deg FLOAT DEFAULT '0' NOT NULL, time_zone TEXT DEFAULT '' NOT NULL, sensor_share FLOAT DEFAULT '0.05' NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "site" VALUES(1,NULL,NULL,NULL,NULL,0.0,0.0,'','one hand; two hands; two people; a trolley',NULL,NULL,0.0,0.0,0.0,'',0.05);
CREATE TABLE size_class (
	id INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	low_wh FLOAT NOT NULL, 
	high_wh FLOAT NOT NULL, 
	removed BOOLEAN NOT NULL, 
	PRIMARY KEY (id)
);
CREATE TABLE solar_array (
	id INTEGER NOT NULL, 
	name TEXT DEFAULT '' NOT NULL, 
	series INTEGER NOT NULL, 
	parallel INTEGER NOT NULL, 
	module_w FLOAT DEFAULT '0' NOT NULL, 
	voc_v FLOAT DEFAULT '0' NOT NULL, 
	vmp_v FLOAT DEFAULT '0' NOT NULL, 
	isc_a FLOAT DEFAULT '0' NOT NULL, 
	imp_a FLOAT DEFAULT '0' NOT NULL, 
	removed BOOLEAN DEFAULT '0' NOT NULL, beta_voc FLOAT DEFAULT '-0.0029' NOT NULL, gamma FLOAT DEFAULT '-0.0037' NOT NULL, tilt_deg FLOAT DEFAULT '30' NOT NULL, azimuth_deg FLOAT DEFAULT '180' NOT NULL, wiring_loss FLOAT DEFAULT '0.02' NOT NULL, on_ground BOOLEAN DEFAULT '0' NOT NULL, 
	PRIMARY KEY (id)
);
CREATE TABLE standing (
	station_id INTEGER NOT NULL, 
	asked TEXT NOT NULL, 
	quantity TEXT NOT NULL, 
	made_of TEXT NOT NULL, 
	answer JSON NOT NULL, 
	PRIMARY KEY (station_id, asked, quantity), 
	FOREIGN KEY(station_id) REFERENCES station (id)
);
CREATE TABLE station (
	id INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	chemistry TEXT NOT NULL, 
	source TEXT NOT NULL, 
	note TEXT NOT NULL, 
	rated_wh FLOAT NOT NULL, 
	rated_w FLOAT NOT NULL, 
	removed BOOLEAN NOT NULL, base_id INTEGER, packs_wh JSON DEFAULT '[]' NOT NULL, units INTEGER DEFAULT 1 NOT NULL, tags JSON DEFAULT '[]' NOT NULL, 
	PRIMARY KEY (id)
);
CREATE TABLE yard (
	id INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	created_at TEXT NOT NULL, 
	rule TEXT NOT NULL, 
	yardstick_id INTEGER, repeatability FLOAT DEFAULT '0.005' NOT NULL, uid TEXT DEFAULT '' NOT NULL, 
	PRIMARY KEY (id)
);
CREATE TABLE yardstick (
	id INTEGER NOT NULL, 
	name TEXT NOT NULL, 
	limit_ratio FLOAT NOT NULL, 
	basis TEXT NOT NULL, 
	removed BOOLEAN NOT NULL, 
	PRIMARY KEY (id)
);
COMMIT;
PRAGMA application_id = 1498697548;
PRAGMA user_version = 11;
