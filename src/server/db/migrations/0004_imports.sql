CREATE TABLE "import_job" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"state" text NOT NULL,
	"bytes" bigint NOT NULL,
	"bytes_done" bigint DEFAULT 0 NOT NULL,
	"rows" bigint DEFAULT 0 NOT NULL,
	"samples" bigint DEFAULT 0 NOT NULL,
	"rejected" bigint DEFAULT 0 NOT NULL,
	"message" text,
	"created_at" bigint NOT NULL,
	"ended_at" bigint
);
