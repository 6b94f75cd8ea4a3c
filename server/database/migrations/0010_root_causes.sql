CREATE TABLE "root_causes" (
	"revision_id" bigint NOT NULL,
	"ordinal" integer NOT NULL,
	"fingerprint" text NOT NULL,
	"body" text NOT NULL,
	CONSTRAINT "root_causes_revision_id_ordinal_pk" PRIMARY KEY("revision_id","ordinal")
);
--> statement-breakpoint
ALTER TABLE "findings" ADD COLUMN "root_cause" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "root_causes" ADD CONSTRAINT "root_causes_revision_id_revisions_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revisions"("id") ON DELETE cascade ON UPDATE no action;