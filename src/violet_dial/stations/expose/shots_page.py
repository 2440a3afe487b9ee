"""The page Test shots: the wheel with what is expected at each number, every frame, one line to type."""

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt, Slot
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF

from violet_dial.core.pictures.compare import compare, grey_stops
from violet_dial.core.quantities import format_signed
from violet_dial.job.document import Job
from violet_dial.kit.cards import labelled
from violet_dial.kit.context import PageContext
from violet_dial.kit.page import StationPage
from violet_dial.kit.picture import PaintedView, antialiased, pens
from violet_dial.kit.rows import Rows
from violet_dial.kit.runner import Runner
from violet_dial.kit.side_panel import SideSaid
from violet_dial.kit.theme.look import Look
from violet_dial.kit.typed_line import line
from violet_dial.services.files import read_file
from violet_dial.services.photos import KINDS, MOST_BYTES, compared_said, picture_of
from violet_dial.stations.expose import shots_acts as acts
from violet_dial.stations.expose.shots_state import CARE, RULE, ShotsShown, shots_shown
from violet_dial.stations.expose.sum import shots_opened

LEFT, FOOT, TOP, LEAST_TALL, LEAST_WIDE = 74, 46, 22, 190, 340
LEAST_STOPS, MOST_STOPS = 2.0, 6.0
SAME = 0.25  # stops within which nobody sees a difference
WORDS = (
    "Where the middle setting lies, and how many stops a number of the wheel and a mark of the slider are, is not known at "
    "first. Every frame narrows all of it. The next one is where the surest end is expected soonest, not always where the "
    "best guess is. A shot indoors without flash may have run into the longest time: it counts as at least that dark."
)
KEYS = (
    "Type wheel, slider and stops: 5 0 -1.5 is too dark by one and a half. right is 0. film 6 says how many are left. Ctrl+R "
    "lays two pictures of the same scene over each other and says by how many stops they differ; card 0.4 0.4 0.2 0.2 says "
    "where an 18 % card is in both."
)
NOTHING = ShotsShown("", "", (), (), 0.0, (), "")


class ShotsView(PaintedView):
    """Only drawn; what it says in words is its name."""

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self.shown = NOTHING

    def least(self) -> tuple[float, float]:
        return LEAST_WIDE, LEAST_TALL

    def show_shots(self, shown: ShotsShown) -> None:
        """Draw these."""
        self.shown = shown
        said = "; ".join(
            f"number {step.wheel:g} {step.stops:+.1f} ± {step.u_stops:.1f} stop{' best' * step.is_best}" for step in shown.steps
        )
        self.setAccessibleName(f"Brightness over the wheel, slider {shown.slider:g}: {said}")
        self.update()

    @property
    def _most(self) -> float:
        far = [*(abs(step.stops) for step in self.shown.steps), *(abs(dot.stops) for dot in self.shown.dots)]
        return min(max([LEAST_STOPS, *(one + 0.3 for one in far)]), MOST_STOPS)

    def _plot(self) -> QRectF:
        look = self._look
        return QRectF(look.px(LEFT), look.px(TOP), self.width() - look.px(LEFT + 14), self.height() - look.px(TOP + FOOT))

    def _at(self, wheel: float, stops: float) -> QPointF:
        box, numbers = self._plot(), [step.wheel for step in self.shown.steps]
        span = max(numbers) - min(numbers) or 1.0
        held = min(max(stops, -self._most), self._most)
        inside = box.adjusted(self._look.px(20), 0, -self._look.px(20), 0)
        return QPointF(
            inside.left() + (wheel - min(numbers)) / span * inside.width(),
            box.center().y() - held / self._most * box.height() / 2,
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.shown.steps:
            return
        painter = antialiased(self)
        self._scale(painter)
        self._expected(painter)
        self._numbers(painter)
        self._dots(painter)

    def _scale(self, painter: QPainter) -> None:
        look, box = self._look, self._plot()
        first = self.shown.steps[0].wheel
        top, low = self._at(first, SAME).y(), self._at(first, -SAME).y()
        painter.fillRect(QRectF(box.left(), top, box.width(), low - top), look.colour("band"))
        painter.setFont(look.font(12))
        for stops in range(-int(self._most), int(self._most) + 1):
            y = self._at(first, stops).y()
            painter.setPen(QPen(look.colour("line"), 2 if not stops else 1))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            painter.setPen(look.colour("quiet"))
            said = "right" if not stops else f"{stops:+d}".replace("-", "−")
            where = QRectF(0, y - look.px(10), box.left() - look.px(8), look.px(20))
            painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, said)
        painter.drawText(QRectF(0, 0, self.width() / 2, look.px(TOP - 4)), Qt.AlignmentFlag.AlignVCenter, "bright ↑  stops")

    def _expected(self, painter: QPainter) -> None:
        look, steps = self._look, self.shown.steps
        above = [self._at(step.wheel, step.stops + step.u_stops) for step in steps]
        below = [self._at(step.wheel, step.stops - step.u_stops) for step in reversed(steps)]
        painter.setPen(Qt.PenStyle.NoPen)
        colour = look.colour("violet")
        colour.setAlphaF(0.16)
        painter.setBrush(colour)
        painter.drawPolygon(QPolygonF([*above, *below]))
        pens(painter, look, "violet", "none", 2)
        painter.drawPolyline(QPolygonF([self._at(step.wheel, step.stops) for step in steps]))

    def _numbers(self, painter: QPainter) -> None:
        look, box = self._look, self._plot()
        for step in self.shown.steps:
            at = self._at(step.wheel, 0.0).x()
            marked = step.is_best or step.is_next
            painter.setFont(look.font(14, marked))
            painter.setPen(look.colour("violet" if marked else "ink"))
            painter.drawText(QRectF(at - look.px(24), box.bottom() + look.px(2), look.px(48), look.px(20)),
                             Qt.AlignmentFlag.AlignCenter, f"{step.wheel:g}")  # fmt: skip
            said = "next" if step.is_next else "best" if step.is_best else ""
            painter.setFont(look.font(12))
            painter.drawText(QRectF(at - look.px(30), box.bottom() + look.px(22), look.px(60), look.px(18)),
                             Qt.AlignmentFlag.AlignCenter, said)  # fmt: skip
            if marked:
                painter.setPen(QPen(look.colour("violet"), 1.4, Qt.PenStyle.DashLine))
                painter.drawLine(QPointF(at, box.top()), QPointF(at, box.bottom()))
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        ends = QRectF(0, box.bottom() + look.px(2), box.left() - look.px(8), look.px(20))
        painter.drawText(ends, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "wheel")
        painter.drawText(QRectF(box.left(), 0, box.width(), look.px(TOP - 4)),
                         Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                         f"clear → dense, slider at {self.shown.slider:g}")  # fmt: skip

    def _dots(self, painter: QPainter) -> None:
        look = self._look
        painter.setFont(look.font(12, True))
        for dot in self.shown.dots:
            at, size = self._at(dot.wheel, dot.stops), look.px(10)
            pens(painter, look, "ink", "card", 1.6)
            box = QRectF(at.x() - size, at.y() - size, 2 * size, 2 * size)
            painter.drawEllipse(box)
            painter.setPen(look.colour("ink"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, dot.words)


class ShotsPage(StationPage):
    """Shows one frozen value; ``compared`` is what two pictures laid over each other say."""

    says_beside = True
    opens = staticmethod(shots_opened)

    def __init__(self, context: PageContext) -> None:
        super().__init__(context)
        self.compared: tuple[str, ...] = ()
        self._card: tuple[float, float, float, float] | None = None
        self.runner = Runner(self)
        self.workers = (self.runner,)
        self.runner.succeeded.connect(self._compared)
        self.runner.failed.connect(context.say)
        self.headline, self.reason = labelled("", "verdict", True), labelled("", "quiet", True)
        self.rule, self.left = labelled(RULE, "", True), labelled("", "small", True)
        self.view, self.rows = ShotsView(context.look), Rows(context.look, "Shots so far")
        self.typed = line("A test shot", self._understood, self._take)
        self.typed.edit.setPlaceholderText("5 0 -1.5")
        above = (self.headline, self.reason, self.rule)
        self.lay(above, self.view, (self.rows, self.left, labelled(CARE, "fault", True), self.typed))

    def begin(self, job: Job) -> None:
        super().begin(job)
        self.compared, self._card = (), None

    def draw(self, job: Job) -> None:
        shown = shots_shown(job)
        self.headline.setText(shown.headline)
        self.reason.setText(shown.reason)
        self.view.show_shots(shown)
        self.rows.show_rows(shown.rows)
        self.left.setText(f"{shown.left} · wheel, slider, stops too bright (−: dark); then indoors, flash")

    def _understood(self, text: str) -> str:
        if text.lower().startswith("card "):
            left, top, wide, tall = acts.card_of(text)
            return f"= an 18 % card from {left:.0%}, {top:.0%}, {wide:.0%} wide and {tall:.0%} tall, in pictures compared"
        return acts.understand(self._known(), text).words

    def _take(self, text: str) -> bool:
        if text.lower().startswith("card "):
            self._card = acts.card_of(text)
            return True
        return self._context.perform(lambda job, at: acts.say_line(job, text, at))

    def turn_view(self) -> None:
        """Two pictures chosen, and laid over each other beside the window's work."""
        self._context.records.choose_many("Two pictures of the same scene, the earlier one first by name", KINDS, self._chosen)

    def _chosen(self, names: list[str]) -> None:
        if len(names) != 2:
            self._context.say(f"Pictures: {len(names)} came, expected two of the same scene; mark both.")
            return
        paths = [Path(name) for name in sorted(names)]
        card = self._card
        self.runner.start(lambda task: _laid_over(paths, card))

    @Slot(object)
    def _compared(self, said: tuple[str, ...]) -> None:
        self.compared = said
        self.beside_changed.emit()

    # in the house

    @property
    def beside(self) -> SideSaid:
        said = "\n".join(self.compared)
        return SideSaid("Two pictures" if said else "How it is thought", (), said or WORDS, keys=KEYS)


def _laid_over(paths: list[Path], card: tuple[float, float, float, float] | None) -> tuple[str, ...]:
    """Two pictures compared, in sentences; for a worker."""
    pictures = [picture_of(read_file(path, MOST_BYTES, "Picture"), path.name) for path in paths]
    said = [f"{paths[0].name} first, {paths[1].name} second.", *compared_said(compare(pictures[0], pictures[1]))]
    if card is not None:
        for path, picture in zip(paths, pictures, strict=True):
            said.append(f"The card of {path.name} comes out at {format_signed(grey_stops(picture, card), 1)} stop.")
    return tuple(said)
