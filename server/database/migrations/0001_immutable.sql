CREATE FUNCTION "refuse_update"() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION 'a revision is never changed; save a new one';
END
$$;
--> statement-breakpoint
CREATE TRIGGER "revisions_immutable" BEFORE UPDATE ON "revisions" FOR EACH ROW EXECUTE FUNCTION "refuse_update"();
--> statement-breakpoint
CREATE TRIGGER "revision_files_immutable" BEFORE UPDATE ON "revision_files" FOR EACH ROW EXECUTE FUNCTION "refuse_update"();
--> statement-breakpoint
CREATE TRIGGER "revision_ranges_immutable" BEFORE UPDATE ON "revision_ranges" FOR EACH ROW EXECUTE FUNCTION "refuse_update"();
