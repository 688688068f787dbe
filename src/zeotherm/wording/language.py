"""The translation in force."""

from __future__ import annotations

import gettext
from importlib.resources import files

_translation = gettext.translation("zeotherm", str(files("zeotherm") / "wording" / "locale"), fallback=True)


def _(text: str) -> str:
    """The text in the person's language."""
    return _translation.gettext(text)


def begun_large(text: str) -> str:
    """Text as it begins a sentence."""
    return text[:1].upper() + text[1:]


def begun(text: str) -> str:
    """Text as it stands within a sentence: 'Neck bore' begins small, 'PLA' and 'T1' do not."""
    return text if text[1:2].isupper() or text[1:2].isdigit() else text[:1].lower() + text[1:]
