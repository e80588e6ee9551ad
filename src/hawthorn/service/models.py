"""What is wrong with a body or a parameter, as the models find it, in words of the catalogue."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from hawthorn.core.messages import Message, said

_WORDED: dict[str, Callable[[Mapping[str, Any]], Message]] = {
    "missing": lambda _: said("models.missing"),
    "extra_forbidden": lambda _: said("models.extra_forbidden"),
    "string_type": lambda _: said("models.string_type"),
    "int_type": lambda _: said("models.whole_number"),
    "int_parsing": lambda _: said("models.whole_number"),
    "int_from_float": lambda _: said("models.whole_number"),
    "float_type": lambda _: said("models.number"),
    "float_parsing": lambda _: said("models.number"),
    "bool_type": lambda _: said("models.yes_or_no"),
    "bool_parsing": lambda _: said("models.yes_or_no"),
    "list_type": lambda _: said("models.list"),
    "dict_type": lambda _: said("models.object"),
    "model_type": lambda _: said("models.object"),
    "model_attributes_type": lambda _: said("models.object"),
    "literal_error": lambda about: said("models.one_of", known=_chosen(about)),
    "enum": lambda about: said("models.one_of", known=_chosen(about)),
    "string_too_long": lambda about: said("models.longest", most=about["max_length"]),
    "string_too_short": lambda about: said("models.shortest", least=about["min_length"]),
    "greater_than_equal": lambda about: said("models.least", least=about["ge"]),
    "less_than_equal": lambda about: said("models.most", most=about["le"]),
    "greater_than": lambda about: said("models.above", least=about["gt"]),
    "less_than": lambda about: said("models.below", most=about["lt"]),
    "too_long": lambda about: said("models.too_many", most=about["max_length"]),
    "too_short": lambda about: said("models.too_few", least=about["min_length"]),
    "json_invalid": lambda about: said("models.json", why=about["error"]),
    "string_pattern_mismatch": lambda about: said("models.form", form=about["pattern"]),
}
"""By what the models' library (Pydantic) calls each kind of error; what is not here is rare, and said in its own English."""


def wrong(error: Mapping[str, Any]) -> Message:
    """What is wrong at one place, of what the models found there."""
    worded = _WORDED.get(error["type"])
    return worded(error.get("ctx", {})) if worded is not None else said("common.words", words=error["msg"])


def _chosen(about: Mapping[str, Any]) -> list[str]:
    return re.findall(r"'([^']*)'", str(about["expected"]))
