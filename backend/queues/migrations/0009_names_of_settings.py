"""Settings of a queue get names that say what they are, also where changes of them are recorded."""

from django.db import migrations

NAMES = {
    "chooses": "distribution", "asks": "required_skills", "growth": "priority_growth",
    "prefer_s": "last_agent_s", "then": "overflow", "then_nobody": "overflow_nobody",
    "then_closed": "overflow_closed",
}


def _recorded(old: str, new: str) -> str:
    return "".join(
        f"UPDATE changelog_change SET {side} = {side} - '{old}' || "
        f"jsonb_build_object('{new}', {side} -> '{old}') "
        f"WHERE kind = 'queue' AND jsonb_exists({side}, '{old}');"
        for side in ("before", "after")
    )


class Migration(migrations.Migration):
    dependencies = [("queues", "0008_hold_music"), ("changelog", "0003_changes_of_kind")]

    operations = [
        *(migrations.RenameField("queue", old, new) for old, new in NAMES.items()),
        migrations.RunSQL(
            "".join(_recorded(old, new) for old, new in NAMES.items()),
            "".join(_recorded(new, old) for old, new in NAMES.items()),
        ),
    ]
