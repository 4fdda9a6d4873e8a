"""Web requests to Django, WebSockets to the live consumer."""

import os
import warnings

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "hazeridge.settings")
os.environ.setdefault("HAZERIDGE_DATABASE_POOL", "20")
# WhiteNoise hands out small files as iterators; Django's remark on each of them is noise.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous")
http = get_asgi_application()

from channels.auth import AuthMiddlewareStack  # noqa: E402  Django must be set up first
from channels.routing import ProtocolTypeRouter, URLRouter  # noqa: E402
from django.conf import settings  # noqa: E402
from django.core.exceptions import ImproperlyConfigured  # noqa: E402
from django.urls import path  # noqa: E402

from exchange.consumers import LiveConsumer  # noqa: E402
from hazeridge.limits import BodyLimit  # noqa: E402
from web.origin import OwnOrigin  # noqa: E402

if not settings.SECRET_KEY_IS_GIVEN:
    raise ImproperlyConfigured("Set HAZERIDGE_SECRET_KEY: without it nobody's session is safe.")

application = ProtocolTypeRouter(
    {
        "http": BodyLimit(http),
        "websocket": OwnOrigin(AuthMiddlewareStack(URLRouter([path("ws/live", LiveConsumer.as_asgi())]))),
    }
)
