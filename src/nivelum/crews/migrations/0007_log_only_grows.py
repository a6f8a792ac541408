"""The guard of the crews' logs: no line is changed or removed."""

from django.db import migrations

MAKE = """
CREATE OR REPLACE FUNCTION log_only_grows() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
  RAISE EXCEPTION 'the log of a crew only grows: no line is changed or removed';
END $$;
CREATE TRIGGER only_grows BEFORE UPDATE OR DELETE OR TRUNCATE ON crews_crewline
  FOR EACH STATEMENT EXECUTE FUNCTION log_only_grows();
ALTER TABLE crews_crewline ENABLE ALWAYS TRIGGER only_grows;
"""
UNMAKE = "DROP TRIGGER only_grows ON crews_crewline; DROP FUNCTION log_only_grows();"


class Migration(migrations.Migration):
    dependencies = [("crews", "0006_people")]
    operations = [migrations.RunSQL(MAKE, UNMAKE)]
