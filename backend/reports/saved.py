"""Reports that are kept, and the files that are made of them at a time of day."""

from __future__ import annotations

import logging
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from django.conf import settings
from django.core.exceptions import ImproperlyConfigured
from django.core.mail import EmailMessage
from django.db.models import Q, QuerySet
from rest_framework.exceptions import APIException, PermissionDenied

from accounts.policy import may
from exchange.services import site_clock_ms
from reports.files import KINDS
from reports.models import ReportFile, SavedReport
from reports.reach import reached_agents
from reports.tables import Reader, table_of
from web.problems import Problem

log = logging.getLogger(__name__)

#: Files of one report that are kept; older ones go.
MOST_FILES = 30
_LONGEST = 300
#: What was due longer ago than this, while nothing ran, is not made up for.
_LATE = timedelta(hours=6)


def readable_by(user: object) -> QuerySet[SavedReport]:
    """A person's own reports, and those that others share."""
    return SavedReport.objects.filter(Q(owner=user) | Q(shared=True)).select_related("owner")


def make_file(report: SavedReport) -> ReportFile:
    """Make a file of a report as its owner sees it, and send it to whom it says. What fails is
    written down in place of the file."""
    made_ms = site_clock_ms()
    day = datetime.fromtimestamp(made_ms / 1000, ZoneInfo(settings.CENTRE_TIME_ZONE)).date()
    name = f"{report.name} {day.isoformat()}.{report.file}"
    made = ReportFile(report=report, made_ms=made_ms, name=name, content=b"")
    try:
        if not may(report.owner, "see", "reports"):
            raise PermissionDenied("Whoever saved this report may not see reports any more.")
        asked = {str(key): str(value) for key, value in report.asked.items()}
        reader = Reader(reached_agents(report.owner, asked.get("team", "")))
        made.content = KINDS[report.file].made(table_of(report.report, asked, reader))
        made.sent_to = _sent(report, made)
    except (Problem, APIException, KeyError) as error:
        words = getattr(error, "detail", "") or "This report cannot be made any more."
        made.error = str(words)[:_LONGEST]
    except (OSError, ImproperlyConfigured) as error:
        why = getattr(error, "strerror", None) or "no mail can be sent"
        made.error = f"The file was made, but not sent: {why}."[:_LONGEST]
    made.save()
    kept = report.files.values_list("pk", flat=True)[:MOST_FILES]
    report.files.exclude(pk__in=list(kept)).delete()
    return made


def _sent(report: SavedReport, made: ReportFile) -> list[str]:
    if not report.to:
        return []
    words = f"“{report.name}”, as it was at this moment. It is attached."
    message = EmailMessage(made.name, words, settings.MAIL_FROM, report.to)
    message.attach(made.name, bytes(made.content), None)
    message.send()
    return list(report.to)


def due(now: datetime) -> list[SavedReport]:
    """The reports of which a file is due at a moment of the centre's clock, and not made yet."""
    today, minute = now.date(), now.hour * 60 + now.minute
    planned = SavedReport.objects.filter(at_min__isnull=False, at_min__lte=minute, owner__is_active=True)
    waiting = planned.filter(Q(last_day__isnull=True) | Q(last_day__lt=today))
    late = minute - round(_LATE.total_seconds() / 60)
    return [
        report
        for report in waiting.select_related("owner")
        if report.at_min is not None
        and report.at_min >= late
        and (not report.weekdays or today.weekday() in report.weekdays)
    ]


def make_what_is_due() -> None:
    """Make the files of this moment. Safe to run twice."""
    now = datetime.fromtimestamp(site_clock_ms() / 1000, ZoneInfo(settings.CENTRE_TIME_ZONE))
    for report in due(now):
        claimed = SavedReport.objects.filter(pk=report.pk).exclude(last_day=now.date())
        if not claimed.update(last_day=now.date()):
            continue
        try:
            make_file(report)
        except Exception:
            # One that breaks costs the others nothing.
            log.exception("no file could be made of the report %s", report.pk)
