"""Columns that are written once: the database itself refuses to change them, and to remove their rows."""

from __future__ import annotations

from django.db.migrations import RunSQL

_FUNCTION = """
CREATE OR REPLACE FUNCTION refuse_to_change_what_is_kept() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'This is kept as it was written: %', TG_ARGV[0] USING ERRCODE = 'integrity_constraint_violation';
END $$;
"""


def keep_columns(table: str, *columns: str, once: tuple[str, ...] = ()) -> RunSQL:
    """A migration's operation. ``once``: text columns that may be filled while they are empty."""
    changed = " OR ".join(
        [f'OLD."{one}" IS DISTINCT FROM NEW."{one}"' for one in columns]
        + [f'(OLD."{one}" <> \'\' AND OLD."{one}" IS DISTINCT FROM NEW."{one}")' for one in once]
    )
    refuse = f"EXECUTE FUNCTION refuse_to_change_what_is_kept('{table}')"
    return RunSQL(
        f"{_FUNCTION}"
        f"CREATE TRIGGER {table}_kept BEFORE UPDATE ON {table} FOR EACH ROW WHEN ({changed}) {refuse};"
        f"CREATE TRIGGER {table}_not_removed BEFORE DELETE ON {table} FOR EACH ROW {refuse};"
        f"CREATE TRIGGER {table}_not_emptied BEFORE TRUNCATE ON {table} FOR EACH STATEMENT {refuse};",
        f"DROP TRIGGER {table}_kept ON {table}; DROP TRIGGER {table}_not_removed ON {table};"
        f"DROP TRIGGER {table}_not_emptied ON {table};",
    )
