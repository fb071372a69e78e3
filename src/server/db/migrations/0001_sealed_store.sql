-- The time-series store; see docs/architecture.md. These tables are partitioned, which the schema file cannot say.

-- What arrived lately, as it came: a row for up to eight series with neighbouring ids (src/server/store/append.ts).
-- A partition holds what arrived in one hour; it is dropped when its samples are sealed.
CREATE TABLE recent (
  "first" bigint NOT NULL,
  "last" bigint NOT NULL,
  series_group integer NOT NULL,
  slot integer NOT NULL,
  data bytea NOT NULL
) PARTITION BY LIST (slot);
--> statement-breakpoint
CREATE INDEX recent_group ON recent (series_group, "last");
--> statement-breakpoint
-- Sealed samples: one row for a series and UTC day (days since the epoch). The statistics pass over NaN.
CREATE TABLE sample_block (
  first_time bigint NOT NULL,
  last_time bigint NOT NULL,
  count bigint NOT NULL,
  sum double precision NOT NULL,
  min double precision NOT NULL,
  max double precision NOT NULL,
  "last" double precision NOT NULL,
  series_id integer NOT NULL,
  day integer NOT NULL,
  data bytea NOT NULL,
  PRIMARY KEY (series_id, day)
) PARTITION BY RANGE (day);
--> statement-breakpoint
-- Roll-ups: count, sum, min, max and last of every five minutes and of every hour.
CREATE TABLE summary_5m (
  last_time bigint NOT NULL,
  series_id integer NOT NULL,
  day integer NOT NULL,
  data bytea NOT NULL,
  PRIMARY KEY (series_id, day)
) PARTITION BY RANGE (day);
--> statement-breakpoint
CREATE TABLE summary_1h (
  last_time bigint NOT NULL,
  series_id integer NOT NULL,
  day integer NOT NULL,
  data bytea NOT NULL,
  PRIMARY KEY (series_id, day)
) PARTITION BY RANGE (day);
--> statement-breakpoint
-- Compressed already, or too short-lived to be worth it.
ALTER TABLE recent ALTER COLUMN data SET STORAGE EXTERNAL;
--> statement-breakpoint
ALTER TABLE sample_block ALTER COLUMN data SET STORAGE EXTERNAL;
--> statement-breakpoint
ALTER TABLE summary_5m ALTER COLUMN data SET STORAGE EXTERNAL;
--> statement-breakpoint
ALTER TABLE summary_1h ALTER COLUMN data SET STORAGE EXTERNAL;
--> statement-breakpoint
-- What the one-row store held arrives again, and is sealed from there.
CREATE TABLE recent_0 PARTITION OF recent FOR VALUES IN (0);
--> statement-breakpoint
INSERT INTO recent ("first", "last", series_group, slot, data)
SELECT time, time, series_id / 8, 0,
       set_byte('\x0000'::bytea, 0, series_id % 8) || float8send(time::float8) || float8send(value)
FROM sample;
