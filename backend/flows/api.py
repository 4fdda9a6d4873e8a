"""Flows: the draft, its inspection, publishing, versions."""

from __future__ import annotations

import json
from typing import Any

from django.db import transaction
from django.db.models import F, Func, IntegerField, TextField, Value
from django.db.models.fields.json import KeyTextTransform
from django.db.models.functions import Coalesce
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.decorators import action
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.item_views import ItemViewSet, RevisionSerializer
from callcore.flow import flow_file, scxml, voicexml
from callcore.flow.compare import clashes, in_words
from callcore.flow.definition import dump, json_schema, load
from callcore.flow.routes import routes as routes_of
from callcore.flow.trial_setup import setup_of
from changelog import config_store
from flows import files, running, services, trials
from flows.inspect import catalogue_around, inspect, news
from flows.models import Flow, Trial
from flows.shapes import (
    BringBackSerializer,
    ClashesSerializer,
    ClashSerializer,
    ComparedSerializer,
    DraftInHandSerializer,
    ExtractedSerializer,
    ExtractingSerializer,
    FlowDraftSerializer,
    FlowFilePreviewSerializer,
    FlowFileSerializer,
    FlowSerializer,
    InspectedSerializer,
    InspectionSerializer,
    OutcomeSerializer,
    PublishedSerializer,
    PublishingSerializer,
    RoutesSerializer,
    SaveTrialSerializer,
    TriedSerializer,
    TryingSerializer,
    VersionSerializer,
)
from web.base import View
from web.core_models import with_models
from web.files import download
from web.problems import Problem, bad_request

INTEGER, TEXT = IntegerField(), TextField()


def add_definition_schema(result: dict[str, Any], **_: Any) -> dict[str, Any]:
    """Put the core's own schema of definitions among the API's components."""
    return with_models(result, "Definition", "Definition", json_schema)


def _read_file(request: Request) -> flow_file.FlowFile:
    form = FlowFileSerializer(data=request.data)
    form.is_valid(raise_exception=True)
    try:
        data = json.loads(form.validated_data["file"].read().decode("utf-8-sig"))
    except (ValueError, RecursionError):
        words = "The file is no JSON in UTF-8."
        raise bad_request(words, file=[words]) from None
    if "\\u0000" in json.dumps(data):
        words = "A text contains a character that cannot be stored."
        raise bad_request(words, file=[words])
    return flow_file.read(data)


class FlowViewSet(ItemViewSet):
    area = "flows"
    queryset = (
        Flow.objects.select_related("in_force", "scheduled")
        .defer("in_force__definition", "scheduled__definition")
        .annotate(
            stops=Func(F("draft__steps"), function="jsonb_array_length", output_field=INTEGER),
            channel=Coalesce(
                KeyTextTransform("channel", "draft"), Value("voice", output_field=TEXT), output_field=TEXT
            ),
            purpose=Coalesce(
                KeyTextTransform("purpose", "draft"), Value("flow", output_field=TEXT), output_field=TEXT
            ),
        )
    )
    search_fields = ["name"]
    ordering_fields = ["name", "channel", "stops", "updated_at"]
    asks = {"list": ("as", "ids", "purpose"), "compare": ("before", "after"), "file": ("form",)}

    def get_queryset(self) -> Any:
        # Lists do not carry the definitions: they would be read for their length only.
        rows = super().get_queryset()
        asked = self.request.query_params.get("purpose")
        if asked and self.action == "list":
            rows = rows.filter(purpose__in=asked.split(","))
        return rows.defer("draft") if self.action == "list" else rows

    def get_serializer_class(self) -> Any:
        return FlowSerializer if self.action == "list" else FlowDraftSerializer

    def get_permissions(self) -> Any:
        # Inspecting writes nothing: whoever may see a flow may have it checked.
        reading = self.action in ("inspect", "routes", "try_it", "run_trials", "preview", "clashes")
        self.verb = "see" if reading else None
        return super().get_permissions()

    def make(self, values: dict[str, Any]) -> Flow:
        definition = load(values["draft"]) if "draft" in values else None
        purpose = values.get("purpose", "flow")
        about = values.get("description", "")
        return services.make_flow(self.request.user, values["name"], definition, purpose, about)

    def keep(self, instance: Flow, revision: int, values: dict[str, Any]) -> None:
        user = self.request.user
        values.pop("purpose", None)
        with transaction.atomic():
            if "draft" in values:
                instance = services.save_draft(user, instance, revision, values.pop("draft"))
                revision = instance.revision
            if values:
                config_store.change(user, instance, revision, **values)

    @extend_schema(request=InspectedSerializer, responses=InspectionSerializer)
    @action(detail=True, methods=["post"])
    def inspect(self, request: Request, pk: str | None = None) -> Response:
        """Check and describe a definition as this flow's, without keeping it."""
        flow = self.get_object()
        form = InspectedSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        in_force = flow.in_force.definition if flow.in_force else None
        counts = running.arm_counts(str(flow.pk))
        draft = load(form.validated_data["draft"])
        catalogue = catalogue_around(draft, str(flow.pk), services.facts(), services.library)
        found = inspect(draft, catalogue, in_force, counts)
        return Response(news(found, form.validated_data["known"]))

    @extend_schema(request=PublishingSerializer, responses=PublishedSerializer)
    @action(detail=True, methods=["post"])
    def publish(self, request: Request, pk: str | None = None) -> Response:
        """Put the draft in force; answered once the exchange runs on it."""
        form = PublishingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        flow = self.get_object()
        with self.saying_what_stands(flow):
            version = services.publish(request.user, flow, **form.validated_data)
        done = {
            "version": version,
            "at": form.validated_data["at"],
            "change": config_store.revision_in_database(),
            "in_effect": running.take_up(request.user),
        }
        return Response(PublishedSerializer(done).data)

    def _staged(self, flow: Flow, data: Any) -> trials.Stage:
        draft = load(data)
        return services.stage(
            draft, catalogue_around(draft, str(flow.pk), services.facts(), services.library)
        )

    @extend_schema(request=DraftInHandSerializer, responses=RoutesSerializer)
    @action(detail=True, methods=["post"])
    def routes(self, request: Request, pk: str | None = None) -> Response:
        """Every distinct way through a definition, with its share, ending and times."""
        flow = self.get_object()
        form = DraftInHandSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        draft = load(form.validated_data["draft"])
        catalogue = catalogue_around(draft, str(flow.pk), services.facts(), services.library)
        found = routes_of(draft, catalogue, running.arm_counts(str(flow.pk)))
        return Response(RoutesSerializer(found._asdict()).data)

    @extend_schema(request=TryingSerializer, responses=TriedSerializer)
    @action(detail=True, methods=["post"], url_path="try")
    def try_it(self, request: Request, pk: str | None = None) -> Response:
        """A trial call on paper, with whatever is pretended; nothing is kept."""
        form = TryingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        stage = self._staged(self.get_object(), form.validated_data["draft"])
        setup = setup_of(form.validated_data["setup"])
        result = stage.run(setup, hold=form.validated_data["hold"])
        return Response(TriedSerializer(result._asdict()).data)

    @extend_schema(request=DraftInHandSerializer, responses=OutcomeSerializer(many=True))
    @action(detail=True, methods=["post"], url_path="run-trials", pagination_class=None)
    def run_trials(self, request: Request, pk: str | None = None) -> Response:
        """Every saved trial, run on a definition."""
        flow = self.get_object()
        form = DraftInHandSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        setups = {str(pk): setup for pk, setup in flow.trials.values_list("pk", "setup")}
        outcomes = trials.run_all(flow, self._staged(flow, form.validated_data["draft"]))
        rows = [{**o._asdict(), "passed": o.passed, "setup": setups[o.id]} for o in outcomes]
        return Response(OutcomeSerializer(rows, many=True).data)

    @extend_schema(request=SaveTrialSerializer, responses={201: OutcomeSerializer})
    @action(detail=True, methods=["post"])
    def trials(self, request: Request, pk: str | None = None) -> Response:
        """Save a trial with what happens now as what is expected."""
        flow = self.get_object()
        form = SaveTrialSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        values = form.validated_data
        stage = self._staged(flow, values["draft"])
        made = trials.save(request.user, flow, values["name"], setup_of(values["setup"]), stage)
        row = {
            "id": str(made.pk),
            "name": made.name,
            "passed": True,
            "differences": [],
            "ending": made.expected["ending"],
            "seconds": made.expected["longest_s"],
            "setup": made.setup,
        }
        return Response(OutcomeSerializer(row).data, status=201)

    @extend_schema(
        responses=ComparedSerializer,
        parameters=[
            OpenApiParameter("before", int, description="A version's number."),
            OpenApiParameter("after", int, description="A version's number; without it the draft."),
        ],
    )
    @action(detail=True, filter_backends=[], pagination_class=None)
    def compare(self, request: Request, pk: str | None = None) -> Response:
        """What differs between two versions, or a version and the draft, in words."""
        flow = self.get_object()
        before = self._definition(flow, request.query_params.get("before"))
        after = self._definition(flow, request.query_params.get("after"))
        catalogue = catalogue_around(after, str(flow.pk), services.facts(), services.library)
        rows = in_words(before, after, catalogue)
        maps = {
            name: {"start": shown.start, "inspection": inspect(shown, catalogue, None)}
            for name, shown in (("before", before), ("after", after))
        }
        changes = [row._asdict() for row in rows]
        return Response(ComparedSerializer({"changes": changes, "maps": maps}).data)

    @extend_schema(request=ClashesSerializer, responses=ClashSerializer(many=True))
    @action(detail=True, methods=["post"], filter_backends=[], pagination_class=None)
    def clashes(self, request: Request, pk: str | None = None) -> Response:
        """What two authors who began from one draft changed differently, in words."""
        flow = self.get_object()
        form = ClashesSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        base, mine, theirs = (load(form.validated_data[n]) for n in ("base", "mine", "theirs"))
        catalogue = catalogue_around(theirs, str(flow.pk), services.facts(), services.library)
        rows = [row._asdict() for row in clashes(base, mine, theirs, catalogue)]
        return Response(ClashSerializer(rows, many=True).data)

    def _definition(self, flow: Flow, number: str | None) -> Any:
        if not number:
            return load(flow.draft)
        known = number.isdecimal() and len(number) < 9
        found = services.numbered(f"flow:{flow.pk}", int(number)) if known else None
        if found is None:
            raise Http404
        return found

    @extend_schema(request=ExtractingSerializer, responses={201: ExtractedSerializer})
    @action(detail=True, methods=["post"])
    def extract(self, request: Request, pk: str | None = None) -> Response:
        """Make a shared block of some stops; the draft that uses it is answered, not kept."""
        form = ExtractingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        flow, values = self.get_object(), form.validated_data
        draft = load(values["draft"])
        catalogue = catalogue_around(draft, str(flow.pk), services.facts(), services.library)
        block, used, made = services.extract_block(
            request.user, draft, values["steps"], values["name"], catalogue
        )
        done = {"draft": dump(used), "made": made, "block": block.pk}
        return Response(ExtractedSerializer(done).data, status=201)

    @extend_schema(request=BringBackSerializer, responses=FlowDraftSerializer)
    @action(detail=True, methods=["post"], url_path="bring-back")
    def bring_back(self, request: Request, pk: str | None = None) -> Response:
        """Make an older version the draft."""
        form = BringBackSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        flow = self.get_object()
        with self.saying_what_stands(flow):
            services.bring_back(request.user, flow, **form.validated_data)
        return Response(self._fresh(flow.pk))

    @extend_schema(request=RevisionSerializer, responses=FlowDraftSerializer)
    @action(detail=True, methods=["post"])
    def unschedule(self, request: Request, pk: str | None = None) -> Response:
        """Let the version that was to come into force be."""
        form = RevisionSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        flow = self.get_object()
        with self.saying_what_stands(flow):
            services.unschedule(request.user, flow, **form.validated_data)
        return Response(self._fresh(flow.pk))

    @extend_schema(
        responses={(200, "application/json"): OpenApiTypes.OBJECT},
        parameters=[OpenApiParameter("form", str, enum=["json", "scxml", "voicexml"])],
    )
    @action(detail=True, filter_backends=[], pagination_class=None)
    def file(self, request: Request, pk: str | None = None) -> HttpResponse:
        """The draft as a file: JSON with all it refers to, SCXML, or (voice) VoiceXML."""
        flow = self.get_object()
        form = request.query_params.get("form", "json")
        if form == "json":
            text = json.dumps(flow_file.write(files.export(flow)), indent=1, ensure_ascii=False)
            return download(flow.name, text, "application/json", "json")
        draft = load(flow.draft)
        catalogue = catalogue_around(draft, str(flow.pk), services.facts(), services.library)
        if form == "scxml":
            text = scxml.write(draft, flow.name, catalogue)
            return download(flow.name, text, "application/scxml+xml", "scxml")
        if form != "voicexml":
            raise Http404
        if draft.channel != "voice":
            raise Problem(409, "voice-only", "A text flow has no dialogues for VoiceXML.")
        text = voicexml.write(draft, catalogue)
        return download(flow.name, text, "application/voicexml+xml", "vxml")

    @extend_schema(request={"multipart/form-data": FlowFileSerializer}, responses=FlowFilePreviewSerializer)
    @action(detail=False, methods=["post"], parser_classes=[MultiPartParser])
    def preview(self, request: Request) -> Response:
        """What a flow's file would bring; nothing is changed."""
        read = _read_file(request)
        rows = [item._asdict() for item in files.preview(read)]
        stops = len(read.definition.steps)
        return Response({"name": read.name, "stops": stops, "things": rows})

    @extend_schema(request={"multipart/form-data": FlowFileSerializer}, responses={201: FlowDraftSerializer})
    @action(detail=False, methods=["post"], parser_classes=[MultiPartParser], url_path="import")
    def import_file(self, request: Request) -> Response:
        """Make the flow of a file, with what it refers to that is not there yet."""
        made = files.import_file(request.user, _read_file(request))
        return Response(self._fresh(made.pk), status=201)

    @extend_schema(responses=VersionSerializer(many=True), filters=False)
    @action(detail=True, pagination_class=None, filter_backends=[])
    def versions(self, request: Request, pk: str | None = None) -> Response:
        """Every published version, newest first."""
        return Response(VersionSerializer(self.get_object().versions.all(), many=True).data)


class TrialView(View):
    """A saved trial: expected anew, or deleted."""

    area = "flows"

    @extend_schema(request=DraftInHandSerializer, responses={204: None})
    def post(self, request: Request, pk: Any) -> Response:
        """What happens now on this definition is what is expected from now on."""
        saved = get_object_or_404(Trial, pk=pk)
        form = DraftInHandSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        draft = load(form.validated_data["draft"])
        catalogue = catalogue_around(draft, str(saved.flow_id), services.facts(), services.library)
        trials.expect_now(request.user, saved, services.stage(draft, catalogue))
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: Any) -> Response:
        config_store.remove(request.user, get_object_or_404(Trial, pk=pk))
        return Response(status=204)


class FlowFileSchemaView(View):
    """The JSON Schema of a flow's file."""

    area = "flows"

    @extend_schema(responses={(200, "application/schema+json"): OpenApiTypes.OBJECT})
    def get(self, request: HttpRequest) -> JsonResponse:
        return JsonResponse(flow_file.json_schema(), content_type="application/schema+json")


class FlowSchemaView(View):
    """The JSON Schema of flow definitions."""

    area = "flows"

    @extend_schema(responses={(200, "application/schema+json"): OpenApiTypes.OBJECT})
    def get(self, request: HttpRequest) -> JsonResponse:
        return JsonResponse(json_schema(), content_type="application/schema+json")
