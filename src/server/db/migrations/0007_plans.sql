CREATE TABLE "query_plan" (
	"id" serial PRIMARY KEY NOT NULL,
	"system_id" integer NOT NULL,
	"query_id" text NOT NULL,
	"plan" jsonb NOT NULL,
	"first_seen_at" bigint NOT NULL,
	"last_seen_at" bigint NOT NULL
);
--> statement-breakpoint
ALTER TABLE "query_plan" ADD CONSTRAINT "query_plan_system_id_system_id_fk" FOREIGN KEY ("system_id") REFERENCES "public"."system"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "query_plan_seen" ON "query_plan" USING btree ("system_id","query_id","last_seen_at");