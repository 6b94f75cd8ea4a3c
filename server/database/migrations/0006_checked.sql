CREATE TABLE "checked_revisions" (
	"revision_id" bigint PRIMARY KEY NOT NULL,
	"engine" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "checked_revisions" ADD CONSTRAINT "checked_revisions_revision_id_revisions_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revisions"("id") ON DELETE cascade ON UPDATE no action;