PRAGMA application_id = 1097758323;
PRAGMA user_version = 0;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
CREATE TABLE machines (
	id INTEGER NOT NULL, 
	name VARCHAR(60) NOT NULL, 
	document JSON NOT NULL, 
	made_at DATETIME NOT NULL, put_away_at DATETIME, 
	PRIMARY KEY (id), 
	UNIQUE (name)
);
CREATE TABLE welders (
	id INTEGER NOT NULL, 
	name VARCHAR(60) NOT NULL, 
	school JSON NOT NULL, 
	note VARCHAR NOT NULL, put_away_at DATETIME, 
	PRIMARY KEY (id), 
	UNIQUE (name)
);
CREATE TABLE jobs (
	id INTEGER NOT NULL, 
	title VARCHAR(120) NOT NULL, 
	welder_id INTEGER, 
	made_at DATETIME NOT NULL, 
	changed_at DATETIME NOT NULL, put_away_at DATETIME, uid VARCHAR(32) DEFAULT '' NOT NULL, machine VARCHAR(60) DEFAULT '' NOT NULL, joint VARCHAR(40) DEFAULT '' NOT NULL, alloy_a VARCHAR(40) DEFAULT '' NOT NULL, alloy_b VARCHAR(40) DEFAULT '' NOT NULL, state VARCHAR(20) DEFAULT '' NOT NULL, thickness_a_mm DOUBLE, thickness_b_mm DOUBLE, 
	PRIMARY KEY (id), 
	FOREIGN KEY(welder_id) REFERENCES welders (id)
);
CREATE TABLE plans (
	id INTEGER NOT NULL, 
	job_id INTEGER NOT NULL, 
	revision INTEGER NOT NULL, 
	origin VARCHAR(20) NOT NULL, 
	words VARCHAR NOT NULL, 
	job_document JSON NOT NULL, 
	machine_document JSON NOT NULL, 
	settings JSON, 
	"plan" JSON NOT NULL, 
	made_at DATETIME NOT NULL, recipe VARCHAR(60), recipe_why VARCHAR(400) DEFAULT '' NOT NULL, recipe_at DATETIME, recipe_key VARCHAR(120), from_recipe VARCHAR(120), 
	PRIMARY KEY (id), 
	UNIQUE (job_id, revision), 
	FOREIGN KEY(job_id) REFERENCES jobs (id)
);
CREATE INDEX ix_plans_job_id ON plans (job_id);
CREATE TABLE coupons (
	id INTEGER NOT NULL, 
	job_id INTEGER NOT NULL, 
	plan_id INTEGER NOT NULL, 
	number INTEGER NOT NULL, 
	made_at DATETIME NOT NULL, uid VARCHAR(32) DEFAULT '' NOT NULL, machine VARCHAR(60) DEFAULT '' NOT NULL, kit VARCHAR(60) DEFAULT '' NOT NULL, left_out BOOLEAN DEFAULT 0 NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (job_id, number), 
	FOREIGN KEY(job_id) REFERENCES jobs (id), 
	FOREIGN KEY(plan_id) REFERENCES plans (id)
);
CREATE INDEX ix_coupons_job_id ON coupons (job_id);
CREATE TABLE readings (
	id INTEGER NOT NULL, 
	coupon_id INTEGER NOT NULL, 
	revision INTEGER NOT NULL, 
	document JSON NOT NULL, 
	verdict JSON NOT NULL, 
	change JSON NOT NULL, 
	made_at DATETIME NOT NULL, typed JSON, kind VARCHAR(20) DEFAULT '' NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (coupon_id, revision), 
	FOREIGN KEY(coupon_id) REFERENCES coupons (id)
);
CREATE TABLE ticks (
	id INTEGER NOT NULL, 
	job_id INTEGER NOT NULL, 
	step VARCHAR(60) NOT NULL, 
	done_at DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (job_id, step), 
	FOREIGN KEY(job_id) REFERENCES jobs (id)
);
CREATE INDEX ix_ticks_job_id ON ticks (job_id);
CREATE TABLE kits (
	id INTEGER NOT NULL, 
	name VARCHAR(60) NOT NULL, 
	document JSON NOT NULL, put_away_at DATETIME, 
	PRIMARY KEY (id), 
	UNIQUE (name)
);
CREATE TABLE gauge_readings (
	id INTEGER NOT NULL, 
	cylinder VARCHAR(60) NOT NULL, 
	bar DOUBLE NOT NULL, 
	note VARCHAR NOT NULL, 
	made_at DATETIME NOT NULL, 
	PRIMARY KEY (id)
);
CREATE INDEX ix_gauge_readings_cylinder ON gauge_readings (cylinder);
CREATE UNIQUE INDEX ix_jobs_uid ON jobs (uid);
CREATE UNIQUE INDEX ix_coupons_uid ON coupons (uid);
CREATE VIRTUAL TABLE words USING fts5(text, tokenize='unicode61 remove_diacritics 2');
CREATE INDEX ix_jobs_changed ON jobs (put_away_at, changed_at, id);
CREATE INDEX ix_coupons_pair ON coupons (machine, kit, id);
CREATE TABLE calibrations (
	id INTEGER NOT NULL, 
	machine VARCHAR(60) NOT NULL, 
	kit VARCHAR(60) NOT NULL, 
	is_on BOOLEAN NOT NULL, 
	document JSON NOT NULL, 
	members JSON NOT NULL, 
	made_at DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (machine, kit)
);
CREATE TABLE fault_trials (
	id INTEGER NOT NULL, 
	sign VARCHAR(40) NOT NULL, 
	cause VARCHAR(40) NOT NULL, 
	helped BOOLEAN NOT NULL, 
	made_at DATETIME NOT NULL, 
	PRIMARY KEY (id)
);
CREATE INDEX ix_fault_trials_sign ON fault_trials (sign);
CREATE TABLE attachments (
	id INTEGER NOT NULL, 
	uid VARCHAR(32) NOT NULL, 
	job_id INTEGER NOT NULL, 
	coupon_id INTEGER, 
	kind VARCHAR(20) NOT NULL, 
	media_type VARCHAR(40) NOT NULL, 
	content BLOB NOT NULL, 
	document JSON NOT NULL, 
	made_at DATETIME NOT NULL, 
	put_away_at DATETIME, part_run_id INTEGER REFERENCES part_runs (id), 
	PRIMARY KEY (id), 
	FOREIGN KEY(job_id) REFERENCES jobs (id), 
	FOREIGN KEY(coupon_id) REFERENCES coupons (id)
);
CREATE UNIQUE INDEX ix_attachments_uid ON attachments (uid);
CREATE INDEX ix_attachments_job_id ON attachments (job_id);
CREATE INDEX ix_attachments_coupon_id ON attachments (coupon_id);
CREATE TABLE heat_runs (
	id INTEGER NOT NULL, 
	uid VARCHAR(32) NOT NULL, 
	job_id INTEGER NOT NULL, 
	revision INTEGER NOT NULL, 
	part JSON NOT NULL, 
	result JSON, 
	film BLOB, 
	made_at DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(job_id) REFERENCES jobs (id)
);
CREATE UNIQUE INDEX ix_heat_runs_uid ON heat_runs (uid);
CREATE INDEX ix_heat_runs_job_id ON heat_runs (job_id);
CREATE TABLE sent_forms (
	mark VARCHAR(32) NOT NULL, 
	uid VARCHAR(32) NOT NULL, 
	made_at DATETIME NOT NULL, 
	PRIMARY KEY (mark)
);
CREATE INDEX ix_sent_forms_uid ON sent_forms (uid);
CREATE TABLE trials (
	id INTEGER NOT NULL, 
	uid VARCHAR(32) NOT NULL, 
	job_id INTEGER, 
	machine VARCHAR(60) DEFAULT '' NOT NULL, 
	kind VARCHAR(20) NOT NULL, 
	document JSON NOT NULL, 
	made_at DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(job_id) REFERENCES jobs (id)
);
CREATE UNIQUE INDEX ix_trials_uid ON trials (uid);
CREATE INDEX ix_trials_job_id ON trials (job_id);
CREATE INDEX ix_trials_machine ON trials (machine);
CREATE TABLE recipes (
	id INTEGER NOT NULL, 
	name VARCHAR(60) NOT NULL, 
	tags VARCHAR(200) DEFAULT '' NOT NULL, 
	favourite BOOLEAN DEFAULT 0 NOT NULL, 
	retired_at DATETIME, 
	PRIMARY KEY (id), 
	UNIQUE (name)
);
CREATE TABLE memories (
	id INTEGER NOT NULL, 
	uid VARCHAR(32) NOT NULL, 
	job_id INTEGER NOT NULL, 
	revision INTEGER NOT NULL, 
	machine VARCHAR(60) NOT NULL, 
	slot INTEGER NOT NULL, 
	label VARCHAR(40) DEFAULT '' NOT NULL, 
	gone_at DATETIME, 
	panel JSON, 
	made_at DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(job_id) REFERENCES jobs (id)
);
CREATE UNIQUE INDEX ix_memories_uid ON memories (uid);
CREATE INDEX ix_memories_job_id ON memories (job_id);
CREATE TABLE part_runs (
	id INTEGER NOT NULL, 
	uid VARCHAR(32) NOT NULL, 
	job_id INTEGER NOT NULL, 
	revision INTEGER NOT NULL, 
	document JSON NOT NULL, 
	made_at DATETIME NOT NULL, seconds DOUBLE, gas_l DOUBLE, rod_mm DOUBLE, cost DOUBLE, 
	PRIMARY KEY (id), 
	FOREIGN KEY(job_id) REFERENCES jobs (id)
);
CREATE UNIQUE INDEX ix_part_runs_uid ON part_runs (uid);
CREATE INDEX ix_part_runs_job_id ON part_runs (job_id);
CREATE INDEX ix_coupons_plan_id ON coupons (plan_id);
CREATE INDEX ix_memories_machine ON memories (machine);
CREATE INDEX ix_part_runs_made_at ON part_runs (made_at);
CREATE TABLE changes (
	id INTEGER NOT NULL, 
	job_id INTEGER, 
	who VARCHAR(60) DEFAULT '' NOT NULL, 
	what VARCHAR(40) NOT NULL, 
	made_at DATETIME NOT NULL, 
	PRIMARY KEY (id)
);
CREATE INDEX ix_changes_job_id ON changes (job_id);
CREATE INDEX ix_plans_from_recipe ON plans (from_recipe);
CREATE INDEX ix_plans_recipe_at ON plans (recipe_at);
CREATE INDEX ix_plans_recipe_key ON plans (recipe_key, recipe_at, id, recipe);
CREATE TABLE terms (
	id INTEGER NOT NULL, 
	term VARCHAR NOT NULL, 
	PRIMARY KEY (id)
);
CREATE UNIQUE INDEX ix_terms_term ON terms (term);
CREATE VIRTUAL TABLE words_pieces USING fts5(term, content='terms', content_rowid='id', tokenize='trigram');
CREATE TRIGGER words_pieces_added AFTER INSERT ON terms BEGIN INSERT INTO words_pieces (rowid, term) VALUES (new.id, new.term); END;
CREATE INDEX ix_attachments_part_run_id ON attachments (part_run_id);
CREATE TABLE practice (
	id INTEGER NOT NULL, 
	uid VARCHAR(32) NOT NULL, 
	welder VARCHAR(60) DEFAULT '' NOT NULL, 
	skill VARCHAR(20) NOT NULL, 
	item VARCHAR(60) NOT NULL, 
	score DOUBLE NOT NULL, 
	document JSON NOT NULL, 
	made_at DATETIME NOT NULL, 
	PRIMARY KEY (id)
);
CREATE UNIQUE INDEX ix_practice_uid ON practice (uid);
CREATE INDEX ix_practice_welder ON practice (welder);
CREATE INDEX ix_readings_kind ON readings (coupon_id, revision, kind);
INSERT INTO alembic_version (version_num) VALUES ('0020');
