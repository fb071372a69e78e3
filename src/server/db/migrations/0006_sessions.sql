CREATE TABLE "session_snapshot" (
	"system_id" integer PRIMARY KEY NOT NULL,
	"seen_at" bigint NOT NULL,
	"sessions" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "session_snapshot" ADD CONSTRAINT "session_snapshot_system_id_system_id_fk" FOREIGN KEY ("system_id") REFERENCES "public"."system"("id") ON DELETE cascade ON UPDATE no action;