"""Files that are handed out."""

from __future__ import annotations

from django.http import HttpResponse
from django.utils.http import content_disposition_header


def download(name: str, content: str | bytes, kind: str, ending: str) -> HttpResponse:
    """A file that a browser keeps, called after what it is of; texts are UTF-8."""
    kind = f"{kind}; charset=utf-8" if isinstance(content, str) else kind
    response = HttpResponse(content, content_type=kind)
    file = f"{name.replace('/', '-')}.{ending}"
    response["Content-Disposition"] = content_disposition_header(True, file)
    return response
