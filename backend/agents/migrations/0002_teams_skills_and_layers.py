"""Teams become things of their own, agents get skills, and handling rules get layers."""

import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

SETTINGS = ("ring_s", "wrap_up", "longest_wrap_s")


def take_over(apps, schema_editor):
    agent_model, team_model = apps.get_model("agents", "Agent"), apps.get_model("agents", "Team")
    teams = {}
    for agent in agent_model.objects.exclude(team_name=""):
        if agent.team_name not in teams:
            teams[agent.team_name] = team_model.objects.create(name=agent.team_name)
        agent.team = teams[agent.team_name]
        agent.save(update_fields=["team"])
    for rules in apps.get_model("agents", "HandlingRules").objects.all():
        rules.values = {name: getattr(rules, name) for name in SETTINGS}
        rules.save(update_fields=["values"])


def kept_fields():
    return [
        ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True,
                                serialize=False)),
        ("revision", models.PositiveIntegerField(default=1, editable=False)),
        ("updated_at", models.DateTimeField(auto_now=True)),
    ]


class Migration(migrations.Migration):
    dependencies = [
        ("agents", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            "Skill", [*kept_fields(), ("name", models.CharField(max_length=60, unique=True))],
            options={"ordering": ["name"]},
        ),
        migrations.CreateModel(
            "Team",
            [
                *kept_fields(),
                ("name", models.CharField(max_length=80, unique=True)),
                ("supervisors", models.ManyToManyField(
                    blank=True, related_name="+", to=settings.AUTH_USER_MODEL)),
            ],
            options={"ordering": ["name"]},
        ),
        migrations.RenameField("agent", "team", "team_name"),
        migrations.AddField(
            "agent", "team",
            models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT,
                              related_name="agents", to="agents.team"),
        ),
        migrations.AddField(
            "agent", "site", models.CharField(blank=True, default="", max_length=60),
            preserve_default=False,
        ),
        migrations.AddField("agent", "languages", models.JSONField(blank=True, default=list)),
        migrations.AddField("agent", "skills", models.JSONField(blank=True, default=dict)),
        migrations.AddField("handlingrules", "values", models.JSONField(default=dict)),
        migrations.AddField(
            "handlingrules", "team",
            models.OneToOneField(blank=True, null=True, to="agents.team",
                                 on_delete=django.db.models.deletion.CASCADE),
        ),
        migrations.AddField(
            "handlingrules", "agent",
            models.OneToOneField(blank=True, null=True, to="agents.agent",
                                 on_delete=django.db.models.deletion.CASCADE),
        ),
        migrations.RunPython(take_over, migrations.RunPython.noop),
        migrations.RemoveField("agent", "team_name"),
        *[migrations.RemoveField("handlingrules", name) for name in SETTINGS],
    ]
