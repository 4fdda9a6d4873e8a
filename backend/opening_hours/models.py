"""Opening hours."""

from django.db import models

from changelog.recorded import Described


class Hours(Described):
    """Named hours; `week`, `exceptions` and `closure` are as `callcore.hours.plan` has them."""

    name = models.CharField(max_length=80, unique=True)
    time_zone = models.CharField(max_length=60)
    week = models.JSONField()
    exceptions = models.JSONField(default=list)
    closure = models.JSONField(null=True)

    class Meta:
        ordering = ["name"]

    def plan(self) -> dict[str, object]:
        """The plain data that `callcore.hours.plan.load` reads."""
        return {
            "time_zone": self.time_zone,
            "week": self.week,
            "exceptions": self.exceptions,
            "closure": self.closure,
        }
