"""The guard of the record as a plain trigger: nothing a session can say sets it aside, only who owns the table."""

from django.db import migrations

MAKE = """
DO $$ DECLARE old text; BEGIN
  FOR old IN SELECT tgname FROM pg_trigger WHERE tgrelid = 'jobs_entry'::regclass AND NOT tgisinternal LOOP
    EXECUTE format('DROP TRIGGER %I ON jobs_entry', old);
  END LOOP;
END $$;
CREATE OR REPLACE FUNCTION record_is_append_only() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
  RAISE EXCEPTION 'the record is append-only: no entry is changed or removed';
END $$;
CREATE TRIGGER append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON jobs_entry
  FOR EACH STATEMENT EXECUTE FUNCTION record_is_append_only();
ALTER TABLE jobs_entry ENABLE ALWAYS TRIGGER append_only;
"""
UNMAKE = "DROP TRIGGER append_only ON jobs_entry; DROP FUNCTION record_is_append_only();"


class Migration(migrations.Migration):
    dependencies = [("jobs", "0005_sign_off_kinds")]
    operations = [migrations.RunSQL(MAKE, UNMAKE)]
