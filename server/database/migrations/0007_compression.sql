-- Documents and results are large texts: LZ4 packs them ten times as fast as the database's older
-- method, which took seconds of every large save. A database that was built without it keeps the older.
DO $$
DECLARE
  large record;
BEGIN
  FOR large IN
    SELECT * FROM (VALUES
      ('revisions', 'document'), ('revision_files', 'text'),
      ('analyses', 'outline'), ('analysis_shares', 'rows'), ('analysis_shares', 'found'),
      ('exit_rows', 'body'), ('findings', 'body'), ('expectation_results', 'body')
    ) AS columns(in_table, name)
  LOOP
    EXECUTE format('ALTER TABLE %I ALTER COLUMN %I SET COMPRESSION lz4', large.in_table, large.name);
  END LOOP;
EXCEPTION WHEN feature_not_supported THEN
  NULL;
END
$$;
