CREATE TABLE "analyses" (
	"revision_id" bigint PRIMARY KEY NOT NULL,
	"engine" text NOT NULL,
	"finished_at" timestamp with time zone DEFAULT now() NOT NULL,
	"milliseconds" integer NOT NULL,
	"outline" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "exit_rows" (
	"revision_id" bigint NOT NULL,
	"ordinal" integer NOT NULL,
	"body" text NOT NULL,
	CONSTRAINT "exit_rows_revision_id_ordinal_pk" PRIMARY KEY("revision_id","ordinal")
);
--> statement-breakpoint
CREATE TABLE "expectation_results" (
	"revision_id" bigint NOT NULL,
	"ordinal" integer NOT NULL,
	"state" text NOT NULL,
	"body" text NOT NULL,
	CONSTRAINT "expectation_results_revision_id_ordinal_pk" PRIMARY KEY("revision_id","ordinal")
);
--> statement-breakpoint
CREATE TABLE "findings" (
	"revision_id" bigint NOT NULL,
	"ordinal" integer NOT NULL,
	"fingerprint" text NOT NULL,
	"code" text NOT NULL,
	"family" text NOT NULL,
	"severity" text NOT NULL,
	"anchor" text NOT NULL,
	"sentence" text NOT NULL,
	"body" text NOT NULL,
	CONSTRAINT "findings_revision_id_ordinal_pk" PRIMARY KEY("revision_id","ordinal")
);
--> statement-breakpoint
ALTER TABLE "analyses" ADD CONSTRAINT "analyses_revision_id_revisions_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revisions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "exit_rows" ADD CONSTRAINT "exit_rows_revision_id_revisions_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revisions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "expectation_results" ADD CONSTRAINT "expectation_results_revision_id_revisions_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revisions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "findings" ADD CONSTRAINT "findings_revision_id_revisions_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revisions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "findings_fingerprint" ON "findings" USING btree ("fingerprint");