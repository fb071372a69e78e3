CREATE TABLE "blocking" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"system_id" integer NOT NULL,
	"root_pid" integer NOT NULL,
	"started_at" bigint NOT NULL,
	"seen_at" bigint NOT NULL,
	"waiters" integer NOT NULL,
	"tree" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "dependency" (
	"from_id" integer NOT NULL,
	"to_id" integer NOT NULL,
	"kind" text NOT NULL,
	"origin" text NOT NULL,
	CONSTRAINT "dependency_from_id_to_id_kind_pk" PRIMARY KEY("from_id","to_id","kind")
);
--> statement-breakpoint
CREATE TABLE "draft" (
	"key" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL,
	"saved_at" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "gc_log" (
	"id" serial PRIMARY KEY NOT NULL,
	"system_id" integer NOT NULL,
	"name" text NOT NULL,
	"uploaded_at" bigint NOT NULL,
	"analysis" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "part" (
	"id" serial PRIMARY KEY NOT NULL,
	"source_id" integer NOT NULL,
	"key" text NOT NULL,
	"kind" text NOT NULL,
	"labels" jsonb NOT NULL,
	"state" text NOT NULL,
	"system_id" integer,
	"first_seen_at" bigint NOT NULL,
	"last_seen_at" bigint NOT NULL,
	CONSTRAINT "part_identity" UNIQUE("source_id","key")
);
--> statement-breakpoint
CREATE TABLE "statement" (
	"system_id" integer NOT NULL,
	"query_id" text NOT NULL,
	"text" text NOT NULL,
	"first_seen_at" bigint NOT NULL,
	"last_seen_at" bigint NOT NULL,
	CONSTRAINT "statement_system_id_query_id_pk" PRIMARY KEY("system_id","query_id")
);
--> statement-breakpoint
CREATE TABLE "ingest_token" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"hash" text NOT NULL,
	"points_a_minute" integer NOT NULL,
	"created_at" bigint NOT NULL,
	"last_used_at" bigint,
	"revoked_at" bigint,
	CONSTRAINT "ingest_token_name_unique" UNIQUE("name"),
	CONSTRAINT "ingest_token_hash_unique" UNIQUE("hash")
);
--> statement-breakpoint
ALTER TABLE "system_group" ADD COLUMN "selector" jsonb;--> statement-breakpoint
ALTER TABLE "runner" ADD COLUMN "work" jsonb;--> statement-breakpoint
ALTER TABLE "series" ADD COLUMN "created_at" bigint DEFAULT (extract(epoch FROM now()) * 1000)::bigint NOT NULL;--> statement-breakpoint
ALTER TABLE "source" ADD COLUMN "options" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "source" ADD COLUMN "state" jsonb;--> statement-breakpoint
ALTER TABLE "system" ADD COLUMN "labels" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "system" ADD COLUMN "parent_id" integer;--> statement-breakpoint
ALTER TABLE "system" ADD COLUMN "vanished_at" bigint;--> statement-breakpoint
ALTER TABLE "system" ADD COLUMN "retired_at" bigint;--> statement-breakpoint
ALTER TABLE "blocking" ADD CONSTRAINT "blocking_system_id_system_id_fk" FOREIGN KEY ("system_id") REFERENCES "public"."system"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "dependency" ADD CONSTRAINT "dependency_from_id_system_id_fk" FOREIGN KEY ("from_id") REFERENCES "public"."system"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "dependency" ADD CONSTRAINT "dependency_to_id_system_id_fk" FOREIGN KEY ("to_id") REFERENCES "public"."system"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "gc_log" ADD CONSTRAINT "gc_log_system_id_system_id_fk" FOREIGN KEY ("system_id") REFERENCES "public"."system"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "part" ADD CONSTRAINT "part_source_id_source_id_fk" FOREIGN KEY ("source_id") REFERENCES "public"."source"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "part" ADD CONSTRAINT "part_system_id_system_id_fk" FOREIGN KEY ("system_id") REFERENCES "public"."system"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "statement" ADD CONSTRAINT "statement_system_id_system_id_fk" FOREIGN KEY ("system_id") REFERENCES "public"."system"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "blocking_seen" ON "blocking" USING btree ("system_id","seen_at");--> statement-breakpoint
CREATE INDEX "gc_log_system" ON "gc_log" USING btree ("system_id");