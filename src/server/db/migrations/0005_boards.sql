CREATE TABLE "board_version" (
	"board_id" integer NOT NULL,
	"version" integer NOT NULL,
	"definition" jsonb NOT NULL,
	"saved_at" bigint NOT NULL,
	"saved_by" text NOT NULL,
	CONSTRAINT "board_version_board_id_version_pk" PRIMARY KEY("board_id","version")
);
--> statement-breakpoint
CREATE TABLE "board" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"definition" jsonb NOT NULL,
	"version" integer NOT NULL,
	"updated_at" bigint NOT NULL,
	"updated_by" text NOT NULL,
	CONSTRAINT "board_name_unique" UNIQUE("name")
);
--> statement-breakpoint
ALTER TABLE "board_version" ADD CONSTRAINT "board_version_board_id_board_id_fk" FOREIGN KEY ("board_id") REFERENCES "public"."board"("id") ON DELETE cascade ON UPDATE no action;