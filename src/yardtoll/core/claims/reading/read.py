"""A pasted block of text as claims for the reviewer to confirm; nothing here is taken silently."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

from yardtoll.core.claims.kinds import (
    CLAIM_KINDS,
    IMPOSSIBLE_PAIRS,
    GoodSide,
    impossible_together,
    value_is_wrong,
)
from yardtoll.core.claims.kinds import Claim as KeptClaim
from yardtoll.core.claims.reading.figures import Figure, find_count, find_figures, plain_text
from yardtoll.core.claims.reading.phrases import (
    AS_INPUT,
    BY_NAME,
    BY_UNIT_ALONE,
    CHEMISTRY,
    CHEMISTRY_NAMES,
    CONDITIONS,
    EACH,
    FULL,
    GENERIC_LABEL,
    NOT,
    SERIES,
    SHARED,
    SOC_WINDOW,
    TOPICS,
    YES_NO,
    Topic,
)
from yardtoll.core.claims.reading.wording import wording_of
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import counted

SURE, LIKELY, GUESS = 0.95, 0.75, 0.4
"""Confidence: named by its own label; named near by; by its unit alone or against the rules."""

LONGEST_TEXT = 200_000
_LABEL = re.compile(r"^([^:\t|=]{1,60}?)\s*(?::(?!\d)|\t|\||=)\s*(.*)$")
_PART = re.compile(r"\s*(?:[;|·•(),]|\s/\s|(?<=[A-Za-z])/(?=\d)|\band\b(?=[^,;]*\d)|\bplus\b)\s*")
_BULLET = re.compile(r"^\s*(?:[-–*•▪◦●]\s+|\d+[.)]\s+)?")
_HIGHEST_CELL_V = 4.5


@dataclass(frozen=True, kw_only=True)
class ReadClaim:
    """One figure found in a text.

    Attributes:
        value: in ``unit``; 1 or 0 for yes or no; None where it is in words.
        text: its line.
        confidence: 0–1; below :data:`LIKELY` it needs a second look.
        wording: the words beside the figure that say how it is meant, such as "up to".
    """

    quantity: str
    value: float | None
    unit: str
    condition: str
    text: str
    confidence: float
    words: str = ""
    wording: str = ""

    def kept_as(self, source: str) -> KeptClaim:
        """As a claim from a source.

        Raises:
            UnusableDataError: the value is not plausible.
        """
        return KeptClaim(
            kind=self.quantity,
            value=self.value,
            words=self.words,
            condition=self.condition,
            source=source,
            text=self.text,
            wording=self.wording,
        )


@dataclass(frozen=True, kw_only=True)
class ReadText:
    """What a text gave: claims, lines with figures that were not understood, and warnings."""

    claims: tuple[ReadClaim, ...]
    unread: tuple[str, ...]
    warnings: tuple[str, ...]


def read_claims(text: str) -> ReadText:
    """Read "key: value unit" lines and short sentences.

    Implausible figures are kept with a low confidence and a warning.

    Raises:
        UnusableDataError: the text is empty, too long, or no text.
    """
    if not text.strip():
        raise UnusableDataError("the text is empty")
    if len(text) > LONGEST_TEXT:
        raise UnusableDataError(f"the text is longer than {LONGEST_TEXT} characters")
    if "\0" in text:
        raise UnusableDataError("this is not text: it holds binary data")
    claims: list[ReadClaim] = []
    unread: list[str] = []
    for line, heading in _lines(text):
        found, missed = _read_line(line, heading)
        claims += found
        if missed:
            unread.append(line)
    claims = _without_repeats(claims)
    return ReadText(
        claims=tuple(_doubted(claims)), unread=tuple(unread), warnings=tuple(_warnings(claims))
    )


def _lines(text: str) -> Iterator[tuple[str, Topic | None]]:
    """Each line with the topic of the heading above it."""
    heading: Topic | None = None
    for raw in text.splitlines():
        line = _BULLET.sub("", plain_text(raw)).strip()
        if not line:
            heading = None
        elif not re.search(r"\d", line) and len(line) < 40 and _is_heading(line):
            heading = _topic_of(line)
            if _has_words(line):
                yield line, None
        else:
            yield line, heading


def _is_heading(line: str) -> bool:
    label = _LABEL.match(line)
    return label is None or not label[2]


def _has_words(line: str) -> bool:
    return bool(CHEMISTRY.search(line) or any(pattern.search(line) for _, pattern in YES_NO))


def _read_line(line: str, heading: Topic | None) -> tuple[list[ReadClaim], bool]:
    """Claims of one line, and whether a figure in it was not understood."""
    matched = _LABEL.match(line)
    label, value = (matched[1], matched[2]) if matched else ("", line)
    topic = _topic_of(label) if label else None
    if heading is not None and GENERIC_LABEL.match(label):
        topic = heading
    found = _words(label, value, line)
    missed = False
    carried: Topic | None = None
    count: int | None = None
    for part in _parts(value):
        own = _topic_of(part)
        if topic is not None and own is not None and not _may_change(topic, own):
            own = None
        if topic is not None and topic.name == "wall" and own is not None:
            own = BY_NAME[AS_INPUT.get(own.name, own.name)]
        meant = own or (carried if topic is None or carried else None) or topic or heading
        if own is not None:
            carried = own
        named = topic is not None or own is not None
        sure = SURE if named else LIKELY if meant or SOC_WINDOW.search(part) else GUESS
        count = find_count(part) or (count if own is None else None) or find_count(label)
        if own is None and meant is carried and not _speaks_of(meant, part):
            meant, sure = topic or heading, GUESS if topic is None else SURE
        made, left = _read_part(
            _Place(part=part, label=label, topic=meant, count=count, sure=sure, line=line)
        )
        found += made
        missed |= left
    return found, missed


def _speaks_of(topic: Topic | None, part: str) -> bool:
    """Whether a topic has a kind for some figure of a part."""
    figures = find_figures(part)
    return topic is None or not figures or any(f.unit in topic.kinds for f in figures)


def _parts(value: str) -> list[str]:
    """A value cut at commas and the like; thousands commas and words in brackets stay."""
    value = re.sub(r"\(([A-Za-z][A-Za-z -]*)\)", r" \1", value)
    guarded = re.sub(r"(?<=\d),(?=\d{3}(?!\d))", "", value)
    guarded = re.sub(r"(?<=\d),(?=\d)", ".", guarded)
    return [part for part in _PART.split(guarded) if part and part.strip()]


def _may_change(topic: Topic, own: Topic) -> bool:
    """Whether words beside a figure outweigh the line's label."""
    general = ("ac_out", "wall", "capacity")
    if own.name in general and topic.name not in (*general, "combined"):
        return False
    if own.name == "capacity" or (own.name == "wall" and topic.name == "ac_out"):
        return False
    if topic.name in ("charge_c", "cycle_life", "weight", "idle", "lifted", "warranty", "usb_in"):
        return False
    return not (topic.name in ("transfer", "noise") or own.name == "ignored")


def _topic_of(text: str) -> Topic | None:
    return next((topic for topic in TOPICS if topic.words.search(text)), None)


@dataclass(frozen=True, kw_only=True)
class _Place:
    """The position of a figure in its line.

    Attributes:
        part: the piece of the line between commas and the like.
        label: the text before the line's colon.
        count: ports or outlets that the figure is said of.
        figures: all of the part's figures.
        condition: as said in the part.
        sure: confidence of what is read here.
    """

    part: str
    label: str
    topic: Topic | None
    count: int | None
    sure: float
    line: str
    condition: str = ""
    figures: tuple[Figure, ...] = ()

    @property
    def words(self) -> str:
        """The label and the part together."""
        return f"{self.label} {self.part}"


def _read_part(place: _Place) -> tuple[list[ReadClaim], bool]:
    topic, part = place.topic, place.part
    if topic is not None and topic.name == "ignored":
        return [], bool(find_figures(part))
    rest, condition = _conditions(part, topic)
    figures = tuple(f for f in find_figures(rest) if f.unit not in ("%", "length"))
    place = replace(place, condition=condition, figures=figures)
    found: list[ReadClaim] = []
    missed = False
    for figure in figures:
        made = _from_figure(figure, place)
        found += made
        missed |= not made
    if place.count and topic is not None and topic.count and find_count(place.words):
        found.append(_made(topic.count, float(place.count), "", place.sure, place.line))
    if topic is not None and topic.name == "capacity" and not found:
        missed |= bool(find_figures(part))
    return found, missed


def _conditions(part: str, topic: Topic | None) -> tuple[str, str]:
    """What is left of a part without its conditions, and the conditions."""
    said = []
    rest = part
    for pattern in CONDITIONS:
        found = (match[0].strip() for match in pattern.finditer(rest))
        said += [words.replace("@", "at ").replace("  ", " ") for words in found]
        rest = pattern.sub(" ", rest)
    if topic is None or topic.name in ("wall", "solar", "combined", "usb_in", *AS_INPUT.values()):
        window = SOC_WINDOW.search(rest)
        if window:
            low, high = (window[1], window[2]) if window[2] else ("0", window[3] or window[4])
            said.insert(0, f"{int(low)}–{int(high)} %")
            rest = rest[: window.start()] + " " + rest[window.end() :]
        elif FULL.search(rest):
            said.insert(0, "0–100 %")
    return rest, ", ".join(dict.fromkeys(said))


def _from_figure(figure: Figure, place: _Place) -> list[ReadClaim]:
    topic = place.topic
    if figure.unit in ("h", "min"):
        topic = _of_time(topic, place.condition)
    kind = topic.kinds.get(figure.unit) if topic is not None else None
    if kind is None:
        kind = BY_UNIT_ALONE.get(figure.unit)
        if kind is None or (topic is not None and figure.unit in ("W", "V", "A")):
            return []
        place = replace(place, sure=min(place.sure, LIKELY if figure.unit != "W" else GUESS))
    if kind in ("", "wall_v"):
        # Understood, and no claim.
        return [_made("", None, "", 0.0, place.line)]
    if kind in ("solar_v", "use_c", "charge_c"):
        return _window(kind, figure, place)
    return [_plain(_as_said(kind, figure, place), figure, place)]


def _as_said(kind: str, figure: Figure, place: _Place) -> str:
    """The kind that words near by, or the figure's size, make of another."""
    if kind == "continuous_w" and re.search(BY_NAME["surge"].words, place.part):
        return "surge_w"
    of_running = re.search(r"\bcontinuous|\brated|\brunning", place.part, re.I)
    if kind == "surge_w" and place.label and of_running:
        return "continuous_w"
    if kind in ("cell_v", "pack_v"):
        return "pack_v" if figure.value > _HIGHEST_CELL_V else "cell_v"
    return kind


def _of_time(topic: Topic | None, condition: str) -> Topic | None:
    """What a time speaks of: charging, even beside the name of an output."""
    if topic is None:
        return BY_NAME["wall"] if "%" in condition else None
    return BY_NAME[AS_INPUT[topic.name]] if topic.name in AS_INPUT else topic


def _plain(kind: str, figure: Figure, place: _Place) -> ReadClaim:
    """A figure of one value: units of time, shared limits and counts seen to."""
    value, condition, sure = figure.value, place.condition, place.sure
    if kind.endswith("_min") and figure.unit == "h":
        value *= 60
    if kind.endswith("_h") and figure.unit == "min":
        value /= 60
    port = kind.removesuffix("_w")
    if kind.endswith("_w") and f"{port}_shared_w" in CLAIM_KINDS:
        if SHARED.search(place.words) and not EACH.search(place.part):
            named = BY_NAME["usb_c"].words.search(place.words) or "USB-A" in place.words
            kind = f"{port}_shared_w" if named or port not in ("usb_a", "usb_c") else "usb_shared_w"
        elif place.count and not condition:
            condition = counted(place.count, "port")
    alike = [f for f in place.figures if f.unit == figure.unit]
    if len(alike) > 1 and kind.endswith(("_v", "_hz", "_a")):
        condition = condition or "selectable"
    if figure.low is not None and figure.low != figure.value:
        # A range where one figure is asked for: its end is kept, and doubted.
        condition = condition or f"{figure.low:g}–{figure.value:g} {figure.unit}"
        sure = min(sure, GUESS)
    if kind == "surge_w" and not condition:
        seconds = [f for f in place.figures if f.unit == "s"]
        condition = f"for {seconds[0].value:g} s" if seconds else ""
    made = _made(kind, value, condition, sure, place.line)
    return replace(made, wording=wording_of(kind, made.unit, place.words, figure.text))


def _window(kind: str, figure: Figure, place: _Place) -> list[ReadClaim]:
    """The two ends of a range, each a claim; a single figure is the upper end."""
    low, high = figure.low, figure.value
    backwards = low is not None and low > high and kind.endswith("_c")
    sure = GUESS if backwards else place.sure
    ends = {f"{kind}_min": low, f"{kind}_max": high}
    return [
        _made(end, value, place.condition, sure, place.line)
        for end, value in ends.items()
        if value is not None
    ]


def _words(label: str, value: str, line: str) -> list[ReadClaim]:
    """Claims in words: chemistry, cells in series, yes and no."""
    found = []
    chemistry = CHEMISTRY.search(line)
    if chemistry:
        name = chemistry[1]
        made = _made("chemistry", None, "", SURE, line)
        words = CHEMISTRY_NAMES.get(name.lower(), name.upper())
        found.append(replace(made, words=words))
    series = SERIES.search(value)
    if series:
        found.append(_made("cells_series", float(series[1] or series[3]), "", LIKELY, line))
    for kind, pattern in YES_NO:
        if pattern.search(line):
            refused = bool(NOT.search(value)) or value.strip().casefold() == "no"
            by_label = pattern.search(label) is not None
            certain = SURE if by_label or kind == "pure_sine" else LIKELY
            found.append(_made(kind, 0.0 if refused else 1.0, "", certain, line))
    return found


def _made(kind: str, value: float | None, condition: str, sure: float, line: str) -> ReadClaim:
    about = CLAIM_KINDS.get(kind)
    return ReadClaim(
        quantity=kind,
        value=None if value is None else round(value, 3),
        unit=about.unit if about else "",
        condition=condition,
        text=line,
        confidence=sure,
    )


def _without_repeats(claims: list[ReadClaim]) -> list[ReadClaim]:
    """Without the same figure said twice, the surer one kept; understood non-claims go."""
    kept: dict[tuple[str, float | None, str, str], ReadClaim] = {}
    for claim in claims:
        if not claim.quantity:
            continue
        key = (claim.quantity, claim.value, claim.words, claim.condition)
        if key not in kept or kept[key].confidence < claim.confidence:
            kept[key] = claim
    return list(kept.values())


def _doubted(claims: list[ReadClaim]) -> Iterator[ReadClaim]:
    """Claims with the confidence lowered where a value is not plausible, alone or with others."""
    clashing = _clashing(claims)
    for claim in claims:
        wrong = value_is_wrong(claim.quantity, claim.value, claim.words)
        rivals = [
            c
            for c in claims
            if c.quantity == claim.quantity
            and c.condition == claim.condition
            and (c.value, c.words) != (claim.value, claim.words)
        ]
        doubtful = wrong or claim.quantity in clashing
        if doubtful or (rivals and claim.condition != "selectable"):
            yield replace(claim, confidence=min(claim.confidence, GUESS))
        else:
            yield claim


def _clashing(claims: list[ReadClaim]) -> set[str]:
    """Kinds whose figures cannot be so together."""
    good = [c.kept_as("") for c in claims if not value_is_wrong(c.quantity, c.value, c.words)]
    if not impossible_together(good):
        return set()
    return {kind for low, high, _ in IMPOSSIBLE_PAIRS for kind in (low, high)}


def _warnings(claims: list[ReadClaim]) -> Iterator[str]:
    good = []
    for claim in claims:
        wrong = value_is_wrong(claim.quantity, claim.value, claim.words)
        if wrong:
            yield f"{wrong} (“{claim.text}”)"
        else:
            good.append(claim.kept_as(""))
    yield from impossible_together(good)
    kinds = {claim.kind for claim in good}
    if (
        any(CLAIM_KINDS[k].good_side is GoodSide.AT_LEAST for k in kinds)
        and "rated_wh" not in kinds
    ):
        yield "no rated energy in Wh was found in the text"
