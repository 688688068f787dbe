"""Plain words on the entry line: several facts in one line, words in any order; unit or word chooses the quantity.

A line is cut into pieces of which each says one thing; it is understood only where every word of it is. Where two
readings of the same words fit, both are offered.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache, cached_property
from importlib.resources import files
from typing import Any

import tomli

from zeotherm.core.catalogue.shelves import Catalogue
from zeotherm.core.catalogue.stations import STATIONS
from zeotherm.core.machine.documents import Setup
from zeotherm.core.machine.quantity import Choice, Quantity, declared
from zeotherm.wording.units import NotANumberError, convert, read_number

MOST_WORDS, MOST_COVERS = 24, 2_000  # beyond which a line is asked about
READ = "read "  # before the key of a station, in place of a path
TOKEN = re.compile(
    r"(\d[\d.,]*(?: ?x ?\d[\d.,]*)+) ?(mm|cm|m|in|inch|inches)?(?![a-z])|(\d{1,2}):(\d{2})|([+\-]?\d[\d.,]*|[.,]\d+) ?"
    r"(°c|°f|mm3/s|mm\^3/s|mm³/s|m3/h|m³/h|ft3/min|m/s|mm2|mm²|%|[a-zµ°Ωω]+)?(?![a-z0-9])|([^\W\d_]+)"
)
BETWEEN, DIGIT, WORD = re.compile(r"[\s,;:.&/()'\"!?=]*"), re.compile(r"\d"), re.compile(r"[^\W\d_]+")
SAME = {"°c": "c", "°": "c", "°f": "f", "mm³/s": "mm3/s", "mm^3/s": "mm3/s", "mm²": "mm2", "m³/h": "m3/h"}
Facts = tuple[tuple[str, float | str], ...]


@dataclass(frozen=True, slots=True)
class Word:
    """A word, or a number with its unit, or sizes with theirs."""

    text: str  # as it is compared: '30mm', '235x235', 'bed'
    numbers: tuple[float, ...] = ()
    unit: str = ""


@dataclass(frozen=True, slots=True)
class Phrase:
    """Neighbouring words that say something."""

    begin: int
    end: int
    facts: Facts


@dataclass(frozen=True)
class _Book:
    """Words of the bench, ready to be looked up."""

    raw: Mapping[str, Any]
    phrases: Mapping[tuple[str, ...], tuple[Facts, ...]]  # sorted words -> what they say
    named: Mapping[tuple[str, ...], tuple[str, ...]]  # sorted words -> paths of quantities, as declared
    called: Mapping[tuple[str, ...], tuple[str, ...]]  # the same, by what a bench calls them
    read: Mapping[tuple[str, ...], str]  # sorted words -> a station that can be read
    slots: Mapping[tuple[str, ...], tuple[str, float]]
    longest: int

    @cached_property
    def vocabulary(self) -> frozenset[str]:
        """Every word that says something."""
        return frozenset(
            word for words in (*self.phrases, *self.named, *self.called, *self.read, *self.slots) for word in words
        )


def spoken(line: str, catalogue: Catalogue) -> tuple[Facts, ...]:
    """What all words of a line say together, in each way to read it; nothing where not all of them are understood.

    Raises NotANumberError.
    """
    book = _book(catalogue)
    words = _words(line, book.raw)
    if not words or len(words) > MOST_WORDS:
        return ()
    if any(not one.numbers and one.text not in book.vocabulary for one in words):
        return ()
    pieces: dict[int, list[Phrase]] = {}
    for piece in _pieces(words, book):
        pieces.setdefault(piece.begin, []).append(piece)
    every = list(itertools.islice(_covers(pieces, 0, len(words)), MOST_COVERS + 1))
    covers = [one for one in every if _distinct(one)]
    if not covers or len(every) > MOST_COVERS:
        return ()
    best = max(_weight(one) for one in covers)
    ways = {tuple(fact for piece in one for fact in piece.facts) for one in covers if _weight(one) == best}
    return tuple(sorted(ways, key=str))


def _distinct(pieces: list[Phrase]) -> bool:
    paths = [path for piece in pieces for path, _value in piece.facts]
    return len(set(paths)) == len(paths)


def _weight(pieces: list[Phrase]) -> int:
    return sum((piece.end - piece.begin) ** 2 for piece in pieces)


def _covers(pieces: Mapping[int, list[Phrase]], at: int, end: int) -> Iterator[list[Phrase]]:
    if at == end:
        yield []
        return
    for piece in pieces.get(at, ()):
        for rest in _covers(pieces, piece.end, end):
            yield [piece, *rest]


def _words(line: str, raw: Mapping[str, Any]) -> tuple[Word, ...]:
    """A line as words and numbers, without what counts for nothing."""
    text = re.sub(r"(?<=[a-z0-9])-(?=[a-z])", " ", line.lower().replace("\N{MINUS SIGN}", "-"))
    text = re.sub(r"\b(" + "|".join(raw["numbers"]) + r")\b", lambda one: str(raw["numbers"][one.group()]), text)
    text = re.sub(r"\bper ?cent\b", "%", text).replace("sq mm", "mm2")
    if not BETWEEN.fullmatch(TOKEN.sub(" ", text)):
        raise NotANumberError(line)
    found: list[Word] = []
    for sizes, sizes_unit, hour, minute, number, unit, word in TOKEN.findall(text):
        if sizes:
            given = tuple(read_number(one.strip(".,")) for one in re.split(r" ?x ?", sizes))
            found.append(Word("x".join(f"{one:g}" for one in given), given, _unit(sizes_unit, raw) or "mm"))
        elif hour:
            found.append(Word(f"{hour}:{minute}", (int(hour) + int(minute) / 60.0,), "o'clock"))
        elif number:
            value = read_number(number.rstrip(".,"))
            kind = _unit(unit, raw)
            if unit and not kind:  # a word right behind a number
                found += [Word(f"{value:g}", (value,))] + ([Word(unit)] if unit not in raw["small"] else [])
            else:
                found.append(Word(f"{value:g}{kind}", (value,), kind))
        elif word not in raw["small"]:
            found.append(Word(word))
    return tuple(found)


def _sorted(text: str, raw: Mapping[str, Any]) -> tuple[str, ...]:
    """The words of a name, in the order in which they are compared."""
    plain = text.lower()
    if not DIGIT.search(plain):  # as nearly all are
        words = (str(raw["numbers"].get(one, one)) for one in WORD.findall(plain))
        return tuple(sorted(one for one in words if one not in raw["small"]))
    return tuple(sorted(one.text for one in _words(text, raw)))


UNITS_READ = frozenset({
    "c", "f", "k", "v", "mv", "a", "ma", "w", "kw", "mm", "cm", "in", "m", "um", "mm3/s", "m3/h", "ft3/min", "m/s", "%",
    "mm2", "awg", "gauge", "mohm", "ohm", "min", "h", "s", "years", "kpa", "hpa",
})  # fmt: skip


def _unit(text: str, raw: Mapping[str, Any]) -> str:
    known = SAME.get(text, raw["units"].get(text, text))
    return known if known in UNITS_READ else ""


@cache
def _raw() -> dict[str, Any]:
    read: dict[str, Any] = tomli.loads((files("zeotherm.wording") / "bench_words.toml").read_text(encoding="utf-8"))
    return {**read, "small": frozenset(read["small"])}


_books: dict[tuple[str, int], _Book] = {}


def _book(catalogue: Catalogue) -> _Book:
    """The words of the bench with those of a catalogue's parts, and of what a setup declares."""
    items = declared(Setup)
    key = (catalogue.digest, len(items))
    if key not in _books:
        _books.clear()
        _books[key] = _made(catalogue)
    return _books[key]


def _made(catalogue: Catalogue) -> _Book:
    raw, items = _raw(), declared(Setup)
    phrases: dict[tuple[str, ...], list[Facts]] = {}
    named: dict[tuple[str, ...], list[str]] = {}
    called: dict[tuple[str, ...], list[str]] = {}

    def say(text: str, facts: Facts) -> None:
        words = _sorted(text, raw)
        if words and facts not in phrases.setdefault(words, []):
            phrases[words].append(facts)

    for path, item in items.items():
        if isinstance(item, Quantity):
            for book, names in ((named, (item.label, *item.names)), (called, raw["quantity"].get(path, ()))):
                for name in names:
                    words = _sorted(name, raw)
                    if words and path not in book.setdefault(words, []):
                        book[words].append(path)
        elif isinstance(item, Choice) and item.shelf not in raw["unspoken"]:
            shelf = catalogue.shelf(item.shelf)
            named_so = {key: f"{key} {one.label}".lower() for key, one in shelf.items()}
            for value, entry in shelf.items():
                facts: Facts = ((path, value),)
                short = entry.label.partition(",")[0]
                alone = not any(short.lower() in other for key, other in named_so.items() if key != value)
                own = {entry.label, value.replace("_", " ")} | ({short} if alone else set())
                for subject in (item.label, *item.names):
                    for one in own:
                        say(f"{subject} {one}", facts)
                if path == "printing.filament":
                    for one in own:
                        for subject in ("", "printing", "prints"):
                            say(f"{subject} {one}", facts)
                for text in raw["choice"].get(path, {}).get(value, ()):
                    say(text, facts)
    for text, stated in raw["say"].items():
        say(text, tuple(stated.items()))
    slots = {_sorted(text, raw): (one["path"], one["times"]) for one in raw["slot"] for text in one["words"]}
    read: dict[tuple[str, ...], str] = {}
    for key, station in STATIONS.items():
        for name, more in itertools.product((station.label, *station.names), ("", "reads", "measured")):
            words = _sorted(f"{name} {more}", raw)
            whole = len(words) == len(f"{name} {more}".split())  # a name of small words says too little
            if station.readable and not station.further and whole:
                read[words] = key
    longest = max(len(one) for one in (*phrases, *named, *called, *read, *slots)) + 1
    said = {key: tuple(one) for key, one in phrases.items()}
    taken = [{key: tuple(one) for key, one in each.items()} for each in (named, called)]
    return _Book(raw, said, taken[0], taken[1], read, slots, longest)


def _pieces(words: tuple[Word, ...], book: _Book) -> Iterator[Phrase]:
    """Everything that neighbouring words say."""
    for begin in range(len(words)):
        for end in range(begin + 1, min(begin + book.longest + 2, len(words)) + 1):
            span = words[begin:end]
            for facts in book.phrases.get(tuple(sorted(one.text for one in span)), ()):
                yield Phrase(begin, end, facts)
            numbers = [one for one in span if one.numbers]
            rest = tuple(sorted(one.text for one in span if not one.numbers))
            if len(numbers) == 1:
                yield from (Phrase(begin, end, facts) for facts in _of_one(numbers[0], rest, span, len(words), book))
            if numbers:
                yield from (Phrase(begin, end, facts) for facts in _of_several(numbers, rest, book))


def _of_one(number: Word, rest: tuple[str, ...], span: tuple[Word, ...], whole: int, book: _Book) -> Iterator[Facts]:
    """What one number says among words; whole: how many words the line has."""
    if len(number.numbers) > 1:
        return
    if rest in book.slots and number.unit in ("", "k", "c"):
        path, times = book.slots[rest]
        yield from _fact(path, times * number.numbers[0], "K")
    named = [facts for path in book.named.get(rest, ()) for facts in _fact(path, number.numbers[0], number.unit)]
    yield from named
    for path in book.called.get(rest, ()):  # without a unit, what it is declared as comes first
        if number.unit or rest not in book.named or (path in book.raw["bare"] and not named):
            yield from _fact(path, number.numbers[0], number.unit)
    if rest in book.read and len(span) == whole and not (named or rest in book.called):
        yield ((f"{READ}{book.read[rest]}", f"{number.numbers[0]:g} {number.unit}".strip()),)
    if not rest and number.unit in book.raw["alone"]:
        yield from _fact(book.raw["alone"][number.unit], number.numbers[0], number.unit)
    for facts in book.phrases.get(rest, ()):
        carried = book.raw["carried"].get(facts[0][0], {})
        if len(facts) == 1 and number.unit in carried:
            for more in _fact(carried[number.unit], number.numbers[0], number.unit):
                yield (*facts, *more)


def _of_several(numbers: list[Word], rest: tuple[str, ...], book: _Book) -> Iterator[Facts]:
    """What several numbers say of one thing."""
    flat = " ".join(rest)
    for group in book.raw["group"]:
        wanted = {" ".join(sorted(text.split())) for text in group["words"]}
        kinds = [one.unit for one in numbers]
        if (
            len(numbers) > 1
            and flat in wanted
            and len(set(kinds)) == len(kinds)
            and all(k in group["units"] for k in kinds)
        ):
            made = [list(_fact(group["units"][one.unit], one.numbers[0], one.unit)) for one in numbers]
            if all(made):
                yield tuple(fact for one in made for fact in one[0])
    for sized in book.raw["sized"]:
        one = numbers[0]
        if len(numbers) == 1 and flat in sized["words"] and len(one.numbers) == len(sized["paths"]):
            made = [list(_fact(path, value, one.unit)) for path, value in zip(sized["paths"], one.numbers, strict=True)]
            if all(made):
                yield tuple(fact for each in made for fact in each[0])


def _fact(path: str, value: float, unit: str) -> Iterator[Facts]:
    """A number for a quantity, where its unit is one of its kind and it lies within the quantity's bounds."""
    item = declared(Setup)[path]
    assert isinstance(item, Quantity)
    if unit == "o'clock" and item.unit != "h":
        return
    try:
        value = convert(value, unit, item.unit)
    except NotANumberError:
        return
    if item.low <= value <= item.high:
        yield ((path, round(value, 6)),)
