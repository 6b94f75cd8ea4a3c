CREATE TABLE "draft_entries" (
	"draft_id" integer NOT NULL,
	"number" integer NOT NULL,
	"what" text NOT NULL,
	"author" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"undoes" integer,
	"change" text NOT NULL,
	CONSTRAINT "draft_entries_draft_id_number_pk" PRIMARY KEY("draft_id","number")
);
--> statement-breakpoint
CREATE TABLE "draft_texts" (
	"draft_id" integer NOT NULL,
	"object" text NOT NULL,
	"author" text NOT NULL,
	"text" text NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "draft_texts_draft_id_object_author_pk" PRIMARY KEY("draft_id","object","author")
);
--> statement-breakpoint
CREATE TABLE "drafts" (
	"id" serial PRIMARY KEY NOT NULL,
	"estate_id" integer NOT NULL,
	"base_id" bigint,
	"base_number" integer NOT NULL,
	"name" text NOT NULL,
	"author" text NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"kind" text DEFAULT 'change' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"version" integer DEFAULT 0 NOT NULL,
	"conflicts" text DEFAULT '[]' NOT NULL,
	"pinned" text DEFAULT '[]' NOT NULL,
	"saved_as" integer
);
--> statement-breakpoint
ALTER TABLE "revisions" DROP CONSTRAINT "revisions_estate_number";--> statement-breakpoint
ALTER TABLE "revisions" ADD COLUMN "draft_id" integer;--> statement-breakpoint
ALTER TABLE "revisions" ADD COLUMN "draft_version" integer;--> statement-breakpoint
ALTER TABLE "revisions" ADD COLUMN "reason" text;--> statement-breakpoint
ALTER TABLE "draft_entries" ADD CONSTRAINT "draft_entries_draft_id_drafts_id_fk" FOREIGN KEY ("draft_id") REFERENCES "public"."drafts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "draft_texts" ADD CONSTRAINT "draft_texts_draft_id_drafts_id_fk" FOREIGN KEY ("draft_id") REFERENCES "public"."drafts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "drafts" ADD CONSTRAINT "drafts_estate_id_estates_id_fk" FOREIGN KEY ("estate_id") REFERENCES "public"."estates"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "drafts" ADD CONSTRAINT "drafts_base_id_revisions_id_fk" FOREIGN KEY ("base_id") REFERENCES "public"."revisions"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "drafts_estate" ON "drafts" USING btree ("estate_id");--> statement-breakpoint
ALTER TABLE "revisions" ADD CONSTRAINT "revisions_draft_id_drafts_id_fk" FOREIGN KEY ("draft_id") REFERENCES "public"."drafts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "revisions_estate_number" ON "revisions" USING btree ("estate_id","number") WHERE "revisions"."draft_id" is null;--> statement-breakpoint
CREATE UNIQUE INDEX "revisions_draft_version" ON "revisions" USING btree ("draft_id","draft_version");