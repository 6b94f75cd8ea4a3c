CREATE TABLE "acceptances" (
	"estate_id" integer NOT NULL,
	"fingerprint" text NOT NULL,
	"reason" text NOT NULL,
	"author" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"until" date,
	CONSTRAINT "acceptances_estate_id_fingerprint_pk" PRIMARY KEY("estate_id","fingerprint")
);
--> statement-breakpoint
ALTER TABLE "acceptances" ADD CONSTRAINT "acceptances_estate_id_estates_id_fk" FOREIGN KEY ("estate_id") REFERENCES "public"."estates"("id") ON DELETE cascade ON UPDATE no action;