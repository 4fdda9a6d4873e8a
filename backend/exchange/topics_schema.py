"""What the live line says, among the components of the API's schema."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter

from callcore.centre.topics import Topics
from web.core_models import with_models


def add_topics_schema(result: dict[str, Any], **_: Any) -> dict[str, Any]:
    """Put every live topic among the API's components: `Topics`, and its parts as `Live…`."""
    adapter = TypeAdapter(Topics)
    return with_models(result, "Topics", "Live", lambda pattern: adapter.json_schema(ref_template=pattern))
