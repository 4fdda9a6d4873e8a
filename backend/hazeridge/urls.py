"""Every address: the API, its schema, and the front end for all the rest."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.urls import include, path, re_path
from django.views.decorators.cache import never_cache
from drf_spectacular.views import SpectacularAPIView
from rest_framework.routers import SimpleRouter

from accounts.api import PasswordView, SessionView, SupervisorViewSet
from accounts.changes_api import ChangeViewSet
from agents.api import AgentViewSet, HandlingRulesView, SkillViewSet, TeamViewSet
from agents.groups_api import RingGroupViewSet
from agents.limits_api import LimitsView
from agents.notices import NoticeViewSet
from agents.people_api import PersonViewSet
from diversions.api import DiversionViewSet
from exchange.alarms_api import TakeAlarmView
from exchange.alerts_api import AlertLogView, SeeAlertView
from exchange.api import (
    CallKeyView,
    CallsView,
    DeskView,
    HangUpView,
    LiveView,
    SayView,
    TargetsView,
    TextsView,
)
from exchange.coverage_api import CoverageView
from exchange.floor_api import OnAgentView, OnContactView, WhyWaitsView
from exchange.records_api import CallbackViewSet, ContactViewSet
from exchange.stand_ins_api import ArrivalsView, ProfileView, ResetView, StandInsView
from flows.api import FlowFileSchemaView, FlowSchemaView, FlowViewSet, TrialView
from flows.clock_api import CallersClockView
from flows.rules import FlowRulesView
from hazeridge.glance import AgentsGlance, FlowsGlance, NumbersGlance, QueuesGlance
from hazeridge.search import SearchView
from lookups.api import ImportView, RowView, TableViewSet
from mailboxes.api import MailboxViewSet, MessageViewSet
from opening_hours.api import HolidaysView, HoursViewSet, LookView
from opening_hours.closures_api import ClosuresView, ClosureView
from phone_numbers.api import NumberViewSet, ReadNumberView
from queues.alerts_api import AlertRuleViewSet
from queues.api import QueueViewSet
from queues.leaving import LeaveView
from reports.api import AgentsSumView, InUseView, MeasuresView, QueueReportView, QueueSumView, SheetView
from reports.boards_api import BoardLinkView, BoardsView, BoardView, WallView
from reports.contacts_api import ContactRecordsView, CourseView, FindContactsView, HeardView, HeardWavView
from reports.keeping_api import KeepingView, WouldGoView
from reports.more_api import (
    AgentDayView,
    AgentsReportView,
    CodedContactsView,
    CodesReportView,
    FlowReportView,
    HoursReportView,
    UsageReportView,
)
from reports.now_api import NowView
from reports.own_api import OwnDayView
from reports.own_report_api import OwnReportView
from reports.people_api import RecordedMomentsView, RecordedPeopleView
from reports.saved_api import MakeFileView, ReportFilesView, ReportFileView, SavedReportsView, SavedReportView
from reports.usual_api import PastView, UsualOfQueueView, UsualView
from sounds.api import MusicView, ReminderView, SoundViewSet, SpeechView, SpokenView, TakeView
from wrapup.api import CodeSetViewSet, CodeViewSet

router = SimpleRouter(trailing_slash=False)
for name, viewset in {
    "numbers": NumberViewSet,
    "diversions": DiversionViewSet,
    "flows": FlowViewSet,
    "sounds": SoundViewSet,
    "lookups": TableViewSet,
    "queues": QueueViewSet,
    "alerts": AlertRuleViewSet,
    "mailboxes": MailboxViewSet,
    "messages": MessageViewSet,
    "agents": AgentViewSet,
    "teams": TeamViewSet,
    "supervisors": SupervisorViewSet,
    "people": PersonViewSet,
    "skills": SkillViewSet,
    "notices": NoticeViewSet,
    "ring-groups": RingGroupViewSet,
    "hours": HoursViewSet,
    "codes": CodeViewSet,
    "code-sets": CodeSetViewSet,
    "changes": ChangeViewSet,
    "contacts": ContactViewSet,
    "callbacks": CallbackViewSet,
}.items():
    router.register(name, viewset, basename=name)

_LIVE = (
    r"^live/(?P<topic>floor|lines|strip|heartbeat|supervisor\.\d{1,18}|"
    r"(?:call|desk|flow|queue|person)\.[0-9a-f-]{36})$"
)

api = [
    path("session", SessionView.as_view()),
    path("contacts/find", FindContactsView.as_view()),
    path("contacts/records", ContactRecordsView.as_view()),
    path("contacts/<uuid:pk>/course", CourseView.as_view()),
    path("contacts/<uuid:pk>/heard", HeardView.as_view()),
    path("contacts/<uuid:pk>/heard.wav", HeardWavView.as_view()),
    path("stand-ins/recorded", RecordedPeopleView.as_view()),
    path("stand-ins/recorded/moments", RecordedMomentsView.as_view()),
    path("glance/numbers", NumbersGlance.as_view()),
    path("glance/flows", FlowsGlance.as_view()),
    path("glance/queues", QueuesGlance.as_view()),
    path("glance/agents", AgentsGlance.as_view()),
    path("reports/in-use", InUseView.as_view()),
    path("reports/past", PastView.as_view()),
    path("reports/usual", UsualView.as_view()),
    path("reports/usual/<uuid:queue>", UsualOfQueueView.as_view()),
    path("reports/measures", MeasuresView.as_view()),
    path("reports/queues", QueueReportView.as_view()),
    path("reports/<str:report>/sheet", SheetView.as_view()),
    path("reports/saved", SavedReportsView.as_view()),
    path("reports/saved/<int:pk>", SavedReportView.as_view()),
    path("reports/saved/<int:pk>/file", MakeFileView.as_view()),
    path("reports/saved/files", ReportFilesView.as_view()),
    path("reports/files/<int:pk>", ReportFileView.as_view()),
    path("reports/queues/sum", QueueSumView.as_view()),
    path("reports/agents/sum", AgentsSumView.as_view()),
    path("reports/codes", CodesReportView.as_view()),
    path("reports/codes/contacts", CodedContactsView.as_view()),
    path("reports/agents", AgentsReportView.as_view()),
    path("reports/agents/<uuid:pk>/day", AgentDayView.as_view()),
    path("reports/flows/<uuid:pk>", FlowReportView.as_view()),
    path("reports/own", OwnReportView.as_view()),
    path("reports/hours", HoursReportView.as_view()),
    path("reports/usage", UsageReportView.as_view()),
    path("session/password", PasswordView.as_view()),
    path("search", SearchView.as_view()),
    path("handling-rules", HandlingRulesView.as_view()),
    path("flow-rules", FlowRulesView.as_view()),
    path("hours/look", LookView.as_view()),
    path("holidays", HolidaysView.as_view()),
    path("numbers/read", ReadNumberView.as_view()),
    path("speech", SpeechView.as_view()),
    path("spoken", SpokenView.as_view()),
    path("lookup-rows/<uuid:pk>", RowView.as_view()),
    path("lookup-imports/<str:name>", ImportView.as_view()),
    path("takes/<int:pk>", TakeView.as_view()),
    path("music", MusicView.as_view()),
    path("calls", CallsView.as_view()),
    path("texts", TextsView.as_view()),
    path("calls/<uuid:contact>/keys", CallKeyView.as_view()),
    path("calls/<uuid:contact>/say", SayView.as_view()),
    path("calls/<uuid:contact>/hang-up", HangUpView.as_view()),
    path("stand-ins", StandInsView.as_view()),
    path("stand-ins/reset", ResetView.as_view()),
    path("stand-ins/today", ArrivalsView.as_view()),
    path("stand-ins/profile", ProfileView.as_view()),
    path("queues/clock", CallersClockView.as_view()),
    path("agents/<uuid:pk>/leave", LeaveView.as_view()),
    path("agents/<uuid:pk>/coverage", CoverageView.as_view()),
    path("alerts/log", AlertLogView.as_view()),
    path("alerts/<uuid:rule>/see", SeeAlertView.as_view()),
    path("alarms/<uuid:contact>/take", TakeAlarmView.as_view()),
    path("floor/contacts/<uuid:contact>/why", WhyWaitsView.as_view()),
    path("floor/contacts/<uuid:contact>/<str:act>", OnContactView.as_view()),
    path("floor/teams/<uuid:team>/limits", LimitsView.as_view()),
    path("keeping", KeepingView.as_view()),
    path("keeping/would-go", WouldGoView.as_view()),
    path("floor/closures", ClosuresView.as_view()),
    path("floor/closures/<uuid:hours>", ClosureView.as_view()),
    path("floor/now", NowView.as_view()),
    path("floor/agents/<uuid:agent>/<str:act>", OnAgentView.as_view()),
    path("boards", BoardsView.as_view()),
    path("boards/<int:pk>", BoardView.as_view()),
    path("boards/<int:pk>/link", BoardLinkView.as_view()),
    path("wall/<str:token>", WallView.as_view()),
    path("desk/day", OwnDayView.as_view()),
    path("desk/targets", TargetsView.as_view()),
    path("desk/reminder", ReminderView.as_view()),
    path("desk/<str:action>", DeskView.as_view()),
    re_path(_LIVE, LiveView.as_view()),
    path("trials/<uuid:pk>", TrialView.as_view()),
    path("schemas/flow-file", FlowFileSchemaView.as_view()),
    path("schemas/flow", FlowSchemaView.as_view()),
    path("schema", SpectacularAPIView.as_view(permission_classes=[], authentication_classes=[])),
    *router.urls,
]


def no_such_address(request: HttpRequest, rest: str = "") -> JsonResponse:
    """An address of the API that does not exist."""
    body = {"status": 404, "code": "not-found", "detail": "There is nothing here.", "fields": {}}
    return JsonResponse(body, status=404, content_type="application/problem+json")


@never_cache
def front_end(request: HttpRequest) -> HttpResponse:
    """The one page of the interface; it finds its way by the address."""
    page = settings.FRONTEND_DIST / "index.html"
    if not page.is_file():
        return HttpResponse("The front end is not built. ./run builds it.", status=503)
    return HttpResponse(page.read_bytes(), content_type="text/html; charset=utf-8")


urlpatterns = [
    path("api/v1/", include(api)),
    re_path(r"^api/(?P<rest>.*)$", no_such_address),
    re_path(r"^(?!static/|assets/).*$", front_end),
]
