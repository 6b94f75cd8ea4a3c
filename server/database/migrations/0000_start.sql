CREATE TABLE "estates" (
	"id" serial PRIMARY KEY NOT NULL,
	"slug" text NOT NULL,
	"name" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "estates_slug_unique" UNIQUE("slug")
);
--> statement-breakpoint
CREATE TABLE "loaded_demos" (
	"name" text PRIMARY KEY NOT NULL,
	"loaded_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "revision_files" (
	"revision_id" bigint NOT NULL,
	"ordinal" integer NOT NULL,
	"name" text NOT NULL,
	"text" text NOT NULL,
	CONSTRAINT "revision_files_revision_id_ordinal_pk" PRIMARY KEY("revision_id","ordinal")
);
--> statement-breakpoint
CREATE TABLE "revision_ranges" (
	"revision_id" bigint NOT NULL,
	"section" text NOT NULL,
	"object_id" text NOT NULL,
	"ordinal" integer NOT NULL,
	"range" "cidr" NOT NULL,
	CONSTRAINT "revision_ranges_revision_id_section_object_id_ordinal_pk" PRIMARY KEY("revision_id","section","object_id","ordinal")
);
--> statement-breakpoint
CREATE TABLE "revisions" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"estate_id" integer NOT NULL,
	"number" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"author" text NOT NULL,
	"origin" text NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"document" text NOT NULL,
	CONSTRAINT "revisions_estate_number" UNIQUE("estate_id","number")
);
--> statement-breakpoint
ALTER TABLE "revision_files" ADD CONSTRAINT "revision_files_revision_id_revisions_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revisions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "revision_ranges" ADD CONSTRAINT "revision_ranges_revision_id_revisions_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revisions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "revisions" ADD CONSTRAINT "revisions_estate_id_estates_id_fk" FOREIGN KEY ("estate_id") REFERENCES "public"."estates"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "revision_ranges_range" ON "revision_ranges" USING gist ("range" inet_ops);