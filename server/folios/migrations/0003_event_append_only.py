"""The event log is append-only: the database itself refuses to change or remove an event."""

from django.db import migrations

FORWARD = """
CREATE FUNCTION folios_event_is_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'The record of a folio is append-only.' USING ERRCODE = 'integrity_constraint_violation';
END $$;
CREATE TRIGGER folios_event_append_only BEFORE UPDATE OR DELETE ON folios_event
    FOR EACH ROW EXECUTE FUNCTION folios_event_is_append_only();
"""
BACKWARD = """
DROP TRIGGER folios_event_append_only ON folios_event;
DROP FUNCTION folios_event_is_append_only();
"""


class Migration(migrations.Migration):
    dependencies = [("folios", "0002_initial")]
    operations = [migrations.RunSQL(FORWARD, BACKWARD)]
