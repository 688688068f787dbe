"""What a file leaves open: the ways it may be read in, each spelled out, for a person to choose."""

from __future__ import annotations

from dataclasses import dataclass

from zeotherm.shop.errors import ShopError

SHOWN_ROWS = 6


@dataclass(frozen=True, slots=True)
class FileQuestion:
    """One thing that can be read in more ways."""

    key: str  # dates, clock, minutes, unit, numbers, columns
    asked: str
    options: tuple[tuple[str, str], ...]  # answer, and what it means for this file


class UnsureError(ShopError):
    """A file that can be read in more ways, or whose columns are not known; nothing of it is taken in."""

    def __init__(
        self, text: str, questions: tuple[FileQuestion, ...] = (), columns: tuple[object, ...] = (),
        rows: tuple[str, ...] = (),
    ) -> None:  # fmt: skip
        super().__init__(text)
        self.questions = questions
        self.columns = columns  # of `series_files.Column`
        self.rows = rows  # the first, as they stand in the file


def unsure(name: str, where: str, question: FileQuestion) -> UnsureError:
    """A question about a place of a file, with its options in words."""
    ways = "; or ".join(f"{meaning} ({question.key}={answer})" for answer, meaning in question.options)
    return UnsureError(f"{name}, {where}: {question.asked} {ways}.", (question,))
