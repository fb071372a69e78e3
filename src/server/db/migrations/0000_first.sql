CREATE TABLE "alert_event" (
	"id" serial PRIMARY KEY NOT NULL,
	"alert_id" integer NOT NULL,
	"at" bigint NOT NULL,
	"kind" text NOT NULL,
	"by" text,
	"note" text,
	"value" double precision
);
--> statement-breakpoint
CREATE TABLE "alert" (
	"id" serial PRIMARY KEY NOT NULL,
	"rule_id" integer,
	"rule_name" text NOT NULL,
	"rule" jsonb NOT NULL,
	"subject" text NOT NULL,
	"system_id" integer,
	"series_id" integer,
	"place" text NOT NULL,
	"labels" jsonb NOT NULL,
	"condition" text NOT NULL,
	"unit" text NOT NULL,
	"level" text NOT NULL,
	"phase" text NOT NULL,
	"since" bigint NOT NULL,
	"raised_at" bigint,
	"value_at_raise" double precision,
	"acknowledged_at" bigint,
	"acknowledged_by" text,
	"clearing_since" bigint,
	"cleared_at" bigint,
	"clear_reason" text,
	"last_time" bigint NOT NULL,
	"last_value" double precision NOT NULL,
	"worst_value" double precision NOT NULL
);
--> statement-breakpoint
CREATE TABLE "change_mark" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"at" bigint NOT NULL,
	"kind" text NOT NULL,
	"title" text NOT NULL,
	"system_id" integer
);
--> statement-breakpoint
CREATE TABLE "contact" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"email" text NOT NULL,
	CONSTRAINT "contact_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "system_group" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"title" text NOT NULL,
	"parent_id" integer,
	"position" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "system_group_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "metric" (
	"name" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"unit" text NOT NULL,
	"help" text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE "notice_attempt" (
	"id" serial PRIMARY KEY NOT NULL,
	"notice_id" integer NOT NULL,
	"at" bigint NOT NULL,
	"duration_ms" integer,
	"outcome" text,
	"detail" text
);
--> statement-breakpoint
CREATE TABLE "notice" (
	"id" serial PRIMARY KEY NOT NULL,
	"alert_id" integer NOT NULL,
	"event" text NOT NULL,
	"contact_id" integer,
	"recipient" text NOT NULL,
	"address" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"attempts" integer DEFAULT 0 NOT NULL,
	"next_at" bigint NOT NULL,
	"lease_until" bigint DEFAULT 0 NOT NULL,
	"created_at" bigint NOT NULL,
	"sent_at" bigint,
	CONSTRAINT "notice_once" UNIQUE("alert_id","event","address")
);
--> statement-breakpoint
CREATE TABLE "rule_progress" (
	"rule_id" integer NOT NULL,
	"subject" text NOT NULL,
	"judged_until" bigint NOT NULL,
	CONSTRAINT "rule_progress_rule_id_subject_pk" PRIMARY KEY("rule_id","subject")
);
--> statement-breakpoint
CREATE TABLE "rule" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"enabled" boolean DEFAULT true NOT NULL,
	"definition" jsonb NOT NULL,
	"next_at" bigint NOT NULL,
	"created_at" bigint NOT NULL,
	"updated_at" bigint NOT NULL,
	"last_error" text,
	CONSTRAINT "rule_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "runner" (
	"id" text PRIMARY KEY NOT NULL,
	"host" text NOT NULL,
	"pid" integer NOT NULL,
	"started_at" bigint NOT NULL,
	"seen_at" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sample" (
	"series_id" integer NOT NULL,
	"time" bigint NOT NULL,
	"value" double precision NOT NULL,
	CONSTRAINT "sample_series_id_time_pk" PRIMARY KEY("series_id","time")
);
--> statement-breakpoint
CREATE TABLE "series" (
	"id" serial PRIMARY KEY NOT NULL,
	"system_id" integer NOT NULL,
	"source_id" integer,
	"metric" text NOT NULL,
	"labels" jsonb NOT NULL,
	"labels_key" text NOT NULL,
	CONSTRAINT "series_identity" UNIQUE("system_id","metric","labels_key")
);
--> statement-breakpoint
CREATE TABLE "setting" (
	"key" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "source" (
	"id" serial PRIMARY KEY NOT NULL,
	"system_id" integer NOT NULL,
	"kind" text NOT NULL,
	"address" text NOT NULL,
	"credential" text,
	"interval_ms" integer NOT NULL,
	"timeout_ms" integer NOT NULL,
	"paused" boolean DEFAULT false NOT NULL,
	"next_at" bigint NOT NULL,
	"lease_until" bigint DEFAULT 0 NOT NULL,
	"leased_by" text,
	"failures" integer DEFAULT 0 NOT NULL,
	"last_run" jsonb,
	"last_good_at" bigint,
	"known_until" bigint
);
--> statement-breakpoint
CREATE TABLE "system" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kit" text NOT NULL,
	"group_id" integer,
	"created_at" bigint NOT NULL,
	CONSTRAINT "system_name_unique" UNIQUE("name")
);
--> statement-breakpoint
ALTER TABLE "alert_event" ADD CONSTRAINT "alert_event_alert_id_alert_id_fk" FOREIGN KEY ("alert_id") REFERENCES "public"."alert"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "alert" ADD CONSTRAINT "alert_rule_id_rule_id_fk" FOREIGN KEY ("rule_id") REFERENCES "public"."rule"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "alert" ADD CONSTRAINT "alert_system_id_system_id_fk" FOREIGN KEY ("system_id") REFERENCES "public"."system"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "change_mark" ADD CONSTRAINT "change_mark_system_id_system_id_fk" FOREIGN KEY ("system_id") REFERENCES "public"."system"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "notice_attempt" ADD CONSTRAINT "notice_attempt_notice_id_notice_id_fk" FOREIGN KEY ("notice_id") REFERENCES "public"."notice"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "notice" ADD CONSTRAINT "notice_alert_id_alert_id_fk" FOREIGN KEY ("alert_id") REFERENCES "public"."alert"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "notice" ADD CONSTRAINT "notice_contact_id_contact_id_fk" FOREIGN KEY ("contact_id") REFERENCES "public"."contact"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rule_progress" ADD CONSTRAINT "rule_progress_rule_id_rule_id_fk" FOREIGN KEY ("rule_id") REFERENCES "public"."rule"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series" ADD CONSTRAINT "series_system_id_system_id_fk" FOREIGN KEY ("system_id") REFERENCES "public"."system"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series" ADD CONSTRAINT "series_source_id_source_id_fk" FOREIGN KEY ("source_id") REFERENCES "public"."source"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series" ADD CONSTRAINT "series_metric_metric_name_fk" FOREIGN KEY ("metric") REFERENCES "public"."metric"("name") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "source" ADD CONSTRAINT "source_system_id_system_id_fk" FOREIGN KEY ("system_id") REFERENCES "public"."system"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "system" ADD CONSTRAINT "system_group_id_system_group_id_fk" FOREIGN KEY ("group_id") REFERENCES "public"."system_group"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "alert_event_alert" ON "alert_event" USING btree ("alert_id");--> statement-breakpoint
CREATE UNIQUE INDEX "alert_one_open" ON "alert" USING btree ("rule_id","subject","condition") WHERE phase <> 'cleared';--> statement-breakpoint
CREATE INDEX "alert_since" ON "alert" USING btree ("since");--> statement-breakpoint
CREATE INDEX "change_mark_at" ON "change_mark" USING btree ("at");--> statement-breakpoint
CREATE INDEX "notice_attempt_notice" ON "notice_attempt" USING btree ("notice_id");--> statement-breakpoint
CREATE INDEX "notice_due" ON "notice" USING btree ("next_at") WHERE state in ('waiting', 'sending');--> statement-breakpoint
CREATE INDEX "series_metric" ON "series" USING btree ("metric");--> statement-breakpoint
CREATE INDEX "source_due" ON "source" USING btree ("next_at");