CREATE TABLE "accounts" (
	"id" serial PRIMARY KEY NOT NULL,
	"login" text NOT NULL,
	"name" text NOT NULL,
	"password_hash" text,
	"issuer" text,
	"subject" text,
	"is_server_owner" boolean DEFAULT false NOT NULL,
	"is_disabled" boolean DEFAULT false NOT NULL,
	"is_local" boolean DEFAULT false NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "accounts_login_unique" UNIQUE("login")
);
--> statement-breakpoint
CREATE TABLE "attempts" (
	"key" text PRIMARY KEY NOT NULL,
	"points" integer DEFAULT 0 NOT NULL,
	"expire" bigint
);
--> statement-breakpoint
CREATE TABLE "estate_roles" (
	"estate_id" integer NOT NULL,
	"account_id" integer NOT NULL,
	"role" text NOT NULL,
	CONSTRAINT "estate_roles_estate_id_account_id_pk" PRIMARY KEY("estate_id","account_id")
);
--> statement-breakpoint
CREATE TABLE "invitations" (
	"hash" text PRIMARY KEY NOT NULL,
	"account_id" integer,
	"ends_at" timestamp with time zone NOT NULL,
	CONSTRAINT "invitations_accountId_unique" UNIQUE("account_id")
);
--> statement-breakpoint
CREATE TABLE "record" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"account_id" integer,
	"who" text NOT NULL,
	"by" text NOT NULL,
	"what" text NOT NULL,
	"estate" text,
	"about" text DEFAULT '' NOT NULL,
	"status" integer,
	"request" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "server_secrets" (
	"name" text PRIMARY KEY NOT NULL,
	"secret" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sessions" (
	"id" serial PRIMARY KEY NOT NULL,
	"hash" text NOT NULL,
	"account_id" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"seen_at" timestamp with time zone DEFAULT now() NOT NULL,
	"ends_at" timestamp with time zone NOT NULL,
	"agent" text NOT NULL,
	CONSTRAINT "sessions_hash_unique" UNIQUE("hash")
);
--> statement-breakpoint
CREATE TABLE "tokens" (
	"id" serial PRIMARY KEY NOT NULL,
	"hash" text NOT NULL,
	"account_id" integer NOT NULL,
	"name" text NOT NULL,
	"role" text NOT NULL,
	"estate_id" integer,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"ends_at" timestamp with time zone NOT NULL,
	"used_at" timestamp with time zone,
	CONSTRAINT "tokens_hash_unique" UNIQUE("hash")
);
--> statement-breakpoint
ALTER TABLE "estate_roles" ADD CONSTRAINT "estate_roles_estate_id_estates_id_fk" FOREIGN KEY ("estate_id") REFERENCES "public"."estates"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "estate_roles" ADD CONSTRAINT "estate_roles_account_id_accounts_id_fk" FOREIGN KEY ("account_id") REFERENCES "public"."accounts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "invitations" ADD CONSTRAINT "invitations_account_id_accounts_id_fk" FOREIGN KEY ("account_id") REFERENCES "public"."accounts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sessions" ADD CONSTRAINT "sessions_account_id_accounts_id_fk" FOREIGN KEY ("account_id") REFERENCES "public"."accounts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tokens" ADD CONSTRAINT "tokens_account_id_accounts_id_fk" FOREIGN KEY ("account_id") REFERENCES "public"."accounts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tokens" ADD CONSTRAINT "tokens_estate_id_estates_id_fk" FOREIGN KEY ("estate_id") REFERENCES "public"."estates"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "accounts_name" ON "accounts" USING btree (lower("name"));--> statement-breakpoint
CREATE UNIQUE INDEX "accounts_subject" ON "accounts" USING btree ("issuer","subject");--> statement-breakpoint
CREATE INDEX "record_estate" ON "record" USING btree ("estate","id");--> statement-breakpoint
CREATE INDEX "sessions_account" ON "sessions" USING btree ("account_id");--> statement-breakpoint
CREATE INDEX "tokens_account" ON "tokens" USING btree ("account_id");