"""Saved reports, when files are made of them, and the files."""

from __future__ import annotations

from typing import Any

from django.core.validators import validate_email
from django.db.models import QuerySet
from django.db.models.functions import Length
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.exceptions import PermissionDenied
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.policy import may
from reports import saved
from reports.files import KINDS as FILES
from reports.models import ReportFile, SavedReport
from reports.tables import KINDS
from web.base import Form, View
from web.files import download

#: Reports that one person keeps.
_MOST = 100
_ASKED = (
    "queues",
    "by",
    "team",
    "flow",
    "rows",
    "columns",
    "period",
    "first",
    "last",
    "weekdays",
    "from",
    "until",
)
_LONGEST = 4_000


class SavedReportSerializer(Form):
    """A report that is kept. `at_min`: the minute of the day at which a file is made, null for
    never; `weekdays`: only on these (Monday is 0), none for all; `to`: addresses it is sent to."""

    id = serializers.IntegerField(read_only=True)
    name = serializers.CharField(max_length=80)
    report = serializers.ChoiceField(KINDS)
    asked = serializers.DictField(child=serializers.CharField(max_length=_LONGEST), required=False)
    shared = serializers.BooleanField(required=False)
    at_min = serializers.IntegerField(min_value=0, max_value=1439, allow_null=True, required=False)
    weekdays = serializers.ListField(
        child=serializers.IntegerField(min_value=0, max_value=6), max_length=7, required=False
    )
    to = serializers.ListField(
        child=serializers.EmailField(validators=[validate_email]), max_length=20, required=False
    )
    file = serializers.ChoiceField([*FILES], required=False)
    mine = serializers.SerializerMethodField()
    owner_name = serializers.CharField(source="owner.full_name", read_only=True)

    def get_mine(self, report: SavedReport) -> bool:
        return report.owner_id == self.context["user"].pk

    def validate_asked(self, asked: dict[str, str]) -> dict[str, str]:
        unknown = sorted(asked.keys() - set(_ASKED))
        if unknown:
            raise serializers.ValidationError(f"No report is asked with “{unknown[0][:40]}”.")
        return asked

    def validate_shared(self, shared: bool) -> bool:
        if shared and not may(self.context["user"], "change", "reports"):
            raise serializers.ValidationError("Who only reads keeps reports for themself.")
        return shared

    def validate_to(self, to: list[str]) -> list[str]:
        if to and not may(self.context["user"], "change", "reports"):
            raise serializers.ValidationError("Who only reads sends reports to nobody.")
        return to


class ReportFileSerializer(serializers.ModelSerializer):
    """A file that was made of a report: its `size` (bytes), 0 where there is none; `error` says
    why, or why it was not sent."""

    report_name = serializers.CharField(source="report.name", read_only=True)
    size = serializers.IntegerField(read_only=True)

    class Meta:
        model = ReportFile
        fields = ["id", "report", "report_name", "made_ms", "name", "size", "sent_to", "error"]


class SavedReportsView(View):
    """One's own reports, and those that others share."""

    area, verb = "reports", "see"

    @extend_schema(responses=SavedReportSerializer(many=True))
    def get(self, request: Request) -> Response:
        rows = saved.readable_by(request.user)
        told = SavedReportSerializer(rows, many=True, context={"user": request.user})
        return Response(told.data)

    @extend_schema(request=SavedReportSerializer, responses={201: SavedReportSerializer})
    def post(self, request: Request) -> Response:
        form = SavedReportSerializer(data=request.data, context={"user": request.user})
        form.is_valid(raise_exception=True)
        if SavedReport.objects.filter(owner=request.user).count() >= _MOST:
            raise serializers.ValidationError({"name": [f"{_MOST} reports are kept at the most."]})
        made = SavedReport.objects.create(owner=request.user, **form.validated_data)
        told = SavedReportSerializer(made, context={"user": request.user})
        return Response(told.data, status=201)


def _own(request: Request, pk: int) -> SavedReport:
    """One's own report; one that is shared only its owner changes."""
    report: SavedReport = get_object_or_404(saved.readable_by(request.user), pk=pk)
    if report.owner_id != request.user.pk:
        raise PermissionDenied("This report is somebody else's: save one of your own.")
    return report


class SavedReportView(View):
    """One saved report."""

    area, verb = "reports", "see"

    @extend_schema(request=SavedReportSerializer, responses=SavedReportSerializer)
    def put(self, request: Request, pk: int) -> Response:
        report = _own(request, pk)
        form = SavedReportSerializer(report, data=request.data, context={"user": request.user})
        form.is_valid(raise_exception=True)
        for name, value in form.validated_data.items():
            setattr(report, name, value)
        report.save()
        return Response(SavedReportSerializer(report, context={"user": request.user}).data)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        _own(request, pk).delete()
        return Response(status=204)


class MakeFileView(View):
    """A file of a saved report, made now."""

    area, verb = "reports", "see"

    @extend_schema(request=None, responses=ReportFileSerializer)
    def post(self, request: Request, pk: int) -> Response:
        made = saved.make_file(_own(request, pk))
        return Response(ReportFileSerializer(_files(request.user).get(pk=made.pk)).data)


def _files(user: Any) -> QuerySet[ReportFile]:
    """Files of one's own reports, and of those that are shared."""
    rows = ReportFile.objects.filter(report__in=saved.readable_by(user)).select_related("report")
    return rows.annotate(size=Length("content"))


class ReportFilesView(View):
    """The files that were made, newest first."""

    area = "reports"

    @extend_schema(responses=ReportFileSerializer(many=True))
    def get(self, request: Request) -> Response:
        rows = _files(request.user).defer("content")[:200]
        return Response(ReportFileSerializer(rows, many=True).data)


class ReportFileView(View):
    """A file that was made."""

    area = "reports"

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponse:
        made: ReportFile = get_object_or_404(_files(request.user), pk=pk, size__gt=0)
        name, _, ending = made.name.rpartition(".")
        return download(name, bytes(made.content), FILES[ending].media, ending)
