CREATE TABLE "analysis_shares" (
	"revision_id" bigint NOT NULL,
	"number" integer NOT NULL,
	"of" integer NOT NULL,
	"engine" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"message" text,
	"started_at" timestamp with time zone,
	"rows" text,
	"found" text,
	CONSTRAINT "analysis_shares_revision_id_number_pk" PRIMARY KEY("revision_id","number")
);
--> statement-breakpoint
ALTER TABLE "analysis_shares" ADD CONSTRAINT "analysis_shares_revision_id_revisions_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revisions"("id") ON DELETE cascade ON UPDATE no action;