"""Web requests to Django, WebSockets to the live consumer."""

import os
import warnings

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "hazeridge.settings")
# WhiteNoise hands out small files as iterators; Django's remark on each of them is noise.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous")
http = get_asgi_application()

from channels.auth import AuthMiddlewareStack  # noqa: E402  Django must be set up first
from channels.routing import ProtocolTypeRouter, URLRouter  # noqa: E402
from channels.security.websocket import AllowedHostsOriginValidator  # noqa: E402
from django.urls import path  # noqa: E402

from exchange.consumers import LiveConsumer  # noqa: E402

application = ProtocolTypeRouter(
    {
        "http": http,
        "websocket": AllowedHostsOriginValidator(
            AuthMiddlewareStack(URLRouter([path("ws/live", LiveConsumer.as_asgi())]))
        ),
    }
)
