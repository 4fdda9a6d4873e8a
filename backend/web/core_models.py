"""Models of the core among the components of the API's schema."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any


def with_models(
    result: dict[str, Any], name: str, prefix: str, schema_of: Callable[[str], dict[str, Any]]
) -> dict[str, Any]:
    """A schema of the API with a model of the core.

    Args:
        name: what the model is called there; its parts have names that begin with `prefix`.
        schema_of: gives the model's JSON Schema, with references to its parts by a pattern.
    """
    schema = _plain(schema_of(f"#/components/schemas/{prefix}{{model}}"))
    parts = schema.pop("$defs")
    components = result["components"]["schemas"]
    components.update({f"{prefix}{part}": model for part, model in parts.items()})
    components[name] = schema
    return result


def _plain(schema: Any) -> Any:
    """A schema without the names that models have inside, and without defaults that are objects:
    what is made of it would take the first for names of its own, and the second for nothing.
    A model as it is answered holds such fields always."""
    if isinstance(schema, list):
        return [_plain(part) for part in schema]
    if not isinstance(schema, dict):
        return schema
    plain = {
        name: _plain(part)
        for name, part in schema.items()
        if not (name == "title" and isinstance(part, str))
        and not (name == "default" and isinstance(part, dict))
    }
    if "properties" in schema:
        fields = schema["properties"]
        plain["properties"] = {name: _plain(field) for name, field in fields.items()}
        filled = {n for n, field in fields.items() if isinstance(field.get("default"), dict)}
        if filled:
            plain["required"] = sorted({*schema.get("required", ()), *filled})
    return plain
