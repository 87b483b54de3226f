"""The published schema: documents with every study kind, and the shape of every answer."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter

from ..document import Document
from ..document.kinds import study_kinds


def document_schema() -> dict[str, Any]:
    """Return the JSON Schema of documents; ``$defs`` holds the studies by kind and, as ``answers``, their answers."""
    schema = Document.model_json_schema()
    definitions: dict[str, Any] = schema.setdefault("$defs", {})
    choices = []
    mapping: dict[str, str] = {}
    answers: dict[str, Any] = {}
    for kind in study_kinds().values():
        own = kind.model.model_json_schema()
        definitions.update(own.pop("$defs", {}))
        name = kind.model.__name__
        definitions[name] = own
        choices.append({"$ref": f"#/$defs/{name}"})
        mapping[kind.name] = f"#/$defs/{name}"
        answer = TypeAdapter(kind.answer).json_schema()
        definitions.update(answer.pop("$defs", {}))
        definitions[kind.answer.__name__] = answer
        answers[kind.name] = {"$ref": f"#/$defs/{kind.answer.__name__}"}
    definitions["Study"] = {"oneOf": choices, "discriminator": {"propertyName": "kind", "mapping": mapping}}
    schema["properties"]["studies"]["items"] = {"$ref": "#/$defs/Study"}
    return {**schema, "answers": answers}
