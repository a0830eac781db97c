"""The toll strip: energy flows left to right, its height in Wh; at each gate a toll falls away."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.formatting import decimals_for, format_with_uncertainty
from yardtoll.core.ledger.ledger import Ledger, Stage, Toll
from yardtoll.report.charts.axes import WIDTH
from yardtoll.report.charts.hatching import Hatch
from yardtoll.report.charts.letters import in_lines, text_width
from yardtoll.report.charts.palette import ON_PAPER, Palette
from yardtoll.report.charts.scene import Box, Item, Line, Scene, Words

_SHEET_H = 236
_NOTHING_WH = 0.5
_LEAST_TOLL_PX = 3.0


@dataclass(frozen=True, kw_only=True)
class StripLook:
    """Measures of a strip in pixels.

    Attributes:
        top, below: room over the highest stage, and under the line for tolls and their words.
        post, cap: of a gate: its width, and (width, height) of what is on top of it.
        block: width of a toll, and the most height it takes.
        words: sizes of a stage's name, of its figure where it is wide and where not, of its notes.
        all_stages: words in every stage, not only in the first and the last one.
        title: a heading above.
    """

    top: float
    below: float
    post: float
    cap: tuple[float, float]
    block: tuple[float, float]
    words: tuple[float, float, float, float]
    toll_words: tuple[float, float]
    all_stages: bool
    title: bool


IN_WINDOW = StripLook(
    top=22,
    below=84,
    post=6,
    cap=(18, 8),
    block=(120, 36),
    words=(16, 32, 21, 14),
    toll_words=(16, 14),
    all_stages=True,
    title=False,
)
IN_LOW_WINDOW = replace(IN_WINDOW, below=70, block=(120, 22), words=(16, 21, 21, 14))
ON_SHEET = StripLook(
    top=40,
    below=_SHEET_H - 154,
    post=4,
    cap=(0, 0),
    block=(64, 44),
    words=(13, 13, 13, 13),
    toll_words=(13, 13),
    all_stages=False,
    title=True,
)
_WORDS_H = 112
"""A lower stage has no room for its words: they stand on it, not in it."""
_UNDER_NOTES = 4
_WIDE_STAGE, _NARROW_STAGE = 230, 110
_NOTE_H = 20


@dataclass(frozen=True, kw_only=True)
class TollStripScene:
    """What is needed to draw a ledger.

    Attributes:
        expanded: U of each place in Wh; None, or left out, where it is not known.
        chosen: the place whose evidence is open; -1 for none.
    """

    ledger: Ledger
    width: float
    height: float
    look: StripLook
    palette: Palette
    expanded: Sequence[float | None] = ()
    chosen: int = -1
    title: str = ""

    @property
    def base(self) -> float:
        """Y of the line that tolls fall below."""
        return self.height - self.look.below

    @property
    def stage_width(self) -> float:
        """Of each stage."""
        return self.width / len(self.ledger.stages)

    def scene(self) -> Scene:
        """The picture."""
        look, palette, ledger = self.look, self.palette, self.ledger
        items: list[Item] = []
        if look.title:
            items.append(Words(x=8, y=18, text=self.title, weight=600, colour=palette.ink))
        grounds = [self._ground(i, stage) for i, stage in enumerate(ledger.stages)]
        items += grounds
        items.append(
            Line(points=((0, self.base), (self.width, self.base)), colour=palette.ink, width=1.5)
        )
        for i, toll in enumerate(ledger.tolls):
            items += self._gate(i, toll)
        last = len(grounds) - 1
        for i, (ground, stage) in enumerate(zip(grounds, ledger.stages, strict=True)):
            if look.all_stages:
                items += self._stage_words(i, ground, stage)
            elif i in (0, last):
                items += self._short_words(ground, stage)
        return Scene(width=self.width, height=self.height, items=tuple(items), title=self.title)

    def shown(self, index: int) -> str:
        """A place's Wh like "1718 ± 12", with the digits its U allows."""
        energy, u = self.ledger.places[index].energy_wh, self.u(index)
        return format_with_uncertainty(energy, u) if u else f"{round(energy):d}"

    def u(self, index: int) -> float:
        """U of a place in Wh; 0 where it is not known."""
        return (self.expanded[index] if index < len(self.expanded) else None) or 0.0

    @property
    def _scale(self) -> float:
        """Pixels a Wh."""
        highest = max(*(stage.energy_wh for stage in self.ledger.stages), 1.0)
        return (self.base - self.look.top) / highest

    def _ground(self, index: int, stage: Stage) -> Box:
        height = stage.energy_wh * self._scale
        # The rating is the maker's word, not a measurement: hatched, so colour is not alone.
        by_word = index == 0 and stage.kind is EnergyKind.STORED
        return Box(
            x=index * self.stage_width,
            y=self.base - height,
            width=self.stage_width,
            height=height,
            fill=self.palette.energy[stage.kind],
            hatch=Hatch.RISING if by_word else Hatch.NONE,
            hatch_colour=self.palette.on_energy[stage.kind],
            hatch_opacity=0.18,
        )

    def _gate(self, index: int, toll: Toll) -> list[Item]:
        """A post, the toll below the line, and its words."""
        look, palette = self.look, self.palette
        place, x = 2 * index + 1, (index + 1) * self.stage_width
        ink = palette.accent if place == self.chosen else palette.ink
        top = look.top - 6 if look.title else 4
        wide, most = look.block
        height = min(max(abs(toll.energy_wh) * self._scale, _LEAST_TOLL_PX), most)
        size, small = look.toll_words
        below = self.base + 6 + height + 3 + size
        items: list[Item] = [
            Box(x=x - look.post / 2, y=top, width=look.post, height=self.base - top, fill=ink)
        ]
        if look.cap[0]:
            cap, cap_h = look.cap
            items.append(Box(x=x - cap / 2, y=2, width=cap, height=cap_h, fill=ink))
        room = 0.0 if look.all_stages else self.stage_width
        return [
            *items,
            Box(
                x=x - wide / 2,
                y=self.base + 6,
                width=wide,
                height=height,
                fill=palette.energy[toll.kind],
                stroke=palette.muted,
            ),
            Words(
                x=x,
                y=below,
                text=f"{_lost(toll.energy_wh, self.u(place))} Wh",
                colour=palette.ink,
                size=size,
                weight=600,
                anchor="middle",
            ),
            Words(
                x=x,
                y=below + small + 4,
                text=toll.title,
                colour=palette.muted,
                size=small,
                anchor="middle",
                room=room,
            ),
        ]

    def _short_words(self, ground: Box, stage: Stage) -> list[Item]:
        ink, room = self.palette.on_energy[stage.kind], ground.width - 8
        x, y = ground.x + 6, ground.y + 18
        figure = f"{stage.energy_wh:.0f} Wh"
        return [
            Words(x=x, y=y, text=stage.title, colour=ink, room=room),
            Words(x=x, y=y + 17, text=figure, colour=ink, weight=600),
        ]

    def _stage_words(self, index: int, ground: Box, stage: Stage) -> list[Item]:
        """Name, figure and ± inside a stage, or above a low one."""
        look, place = self.look, 2 * index
        aside = 22 if ground.width > _WIDE_STAGE else 12 if ground.width > _NARROW_STAGE else 7
        x, room = ground.x + aside, ground.width - 2 * aside
        name_px, wide_px, narrow_px, note_px = look.words
        names = in_lines(stage.title, name_px, room)
        more = (len(names) - 1) * (name_px + 2)
        wide = ground.width > _WIDE_STAGE and wide_px > narrow_px
        said = [in_lines(note, note_px, room) for note in self._notes(place, stage, room)]
        notes = _whole(said, most=sum(map(len, said)))
        to_note = (62 if wide else 48) + note_px + more
        words_h = _WORDS_H + more + _NOTE_H * max(len(notes) - 2, 0)
        # Where there is no room for all of it, neither inside nor above, closer together inside,
        # and without notes that would not fit: they are among the figures too.
        close = ground.height < words_h and ground.y < words_h
        if close:
            over = ground.height - to_note - _UNDER_NOTES
            notes = _whole(said, most=int(over // _NOTE_H) + 1)
        room_for_figure = ground.height >= to_note - note_px + _UNDER_NOTES
        inside = ground.height >= words_h or (close and room_for_figure)
        ink = self.palette.on_energy[stage.kind] if inside else self.palette.ink
        spare = ground.height - to_note - _NOTE_H * (len(notes) - 1) - _UNDER_NOTES
        top = max(ground.y + (min(max(spare / 2, 0), 12) if close else 12), look.top)
        if not inside:
            top = max(ground.y - words_h + 8, 0.0)
            over = ground.y - top - to_note - _UNDER_NOTES
            notes = _whole(said, most=int(over // _NOTE_H) + 1)
        figure_px = wide_px if wide else narrow_px
        items: list[Item] = [
            Words(
                x=x, y=top + name_px + i * (name_px + 2), text=name, colour=ink, size=name_px,
                weight=500, room=room, whole=True,
            )
            for i, name in enumerate(names)
        ]  # fmt: skip
        if place == self.chosen:
            under = min(text_width(names[-1], name_px), room)
            items.append(Box(x=x, y=top + more + name_px + 4, width=under, height=2, fill=ink))
        figure = f"{self.shown(place).split(' ± ')[0]} Wh"
        items.append(
            Words(
                x=x, y=top + more + 20 + figure_px, text=figure, colour=ink, size=figure_px,
                weight=600, room=room, whole=True,
            )
        )  # fmt: skip
        below = top + to_note
        items += [
            Words(
                x=x,
                y=below + _NOTE_H * i,
                text=note,
                colour=ink,
                size=note_px,
                room=room,
                whole=True,
            )
            for i, note in enumerate(notes)
        ]
        return items

    def _notes(self, place: int, stage: Stage, room: float) -> list[str]:
        """The ± and the share of the rating, on one line where there is room for both."""
        rated, u = self.ledger.rated_wh, self.u(place)
        if place == 0 and not stage.sensitivities.drawn:
            return ["the maker's figure"]
        share = f"{100 * stage.energy_wh / rated:.{_share_decimals(u, rated)}f} % of rated"
        notes = [share]
        if u:
            within = f"± {self.shown(place).split(' ± ')[-1]} Wh"
            both = f"{within} · {share}"
            fits = text_width(both, self.look.words[3]) <= room
            notes = [both] if fits else [within, share]
        if stage.kind is EnergyKind.DELIVERED and self.ledger.own_draw_wh:
            notes.append(f"{self.ledger.own_draw_wh:.1f} Wh of it fed the meter")
        return notes


def _whole(notes: list[list[str]], *, most: int) -> list[str]:
    """Lines of the first notes that fit whole into so many lines: no half of a sentence."""
    lines: list[str] = []
    for note in notes:
        if len(lines) + len(note) > most:
            break
        lines += note
    return lines


def ledger_scene(ledger: Ledger, title: str) -> Scene:
    """A ledger as the sheet shows it."""
    return TollStripScene(
        ledger=ledger,
        width=WIDTH,
        height=_SHEET_H,
        look=ON_SHEET,
        palette=ON_PAPER,
        title=title,
    ).scene()


def _lost(energy_wh: float, expanded: float) -> str:
    """A toll with its sign: what is lost falls, a surplus rises."""
    sign = "" if abs(energy_wh) < _NOTHING_WH else "−" if energy_wh > 0 else "+"
    size = abs(energy_wh)
    return sign + (format_with_uncertainty(size, expanded) if expanded else f"{size:.0f}")


def _share_decimals(expanded: float, rated_wh: float) -> int:
    return min(decimals_for(100 * expanded / rated_wh), 1) if expanded else 1
