"""The map of aperture against light on the screen."""

from collections.abc import Iterable

from violet_dial.kit.picture import PictureView
from violet_dial.kit.theme.look import Look
from violet_dial.report.shapes import Shape
from violet_dial.stations.expose.lamps_state import LampsShown
from violet_dial.stations.expose.pictures import LampMap, PictureFrame

LEAST = (340, 210)


class LampsView(PictureView):
    """Only drawn; what it says in words is its name."""

    def __init__(self, look: Look) -> None:
        super().__init__(look)
        self.shown: LampsShown | None = None

    def least(self) -> tuple[float, float]:
        return LEAST

    def show_lamps(self, shown: LampsShown) -> None:
        """Draw these."""
        self.shown = shown
        self.say(
            f"Map of aperture against light: {'; '.join(spot.words for spot in shown.spots) or 'nothing seen yet'}"
        )
        self.draw_anew()

    def shapes(self) -> Iterable[Shape]:
        return (
            ()
            if self.shown is None
            else LampMap(self.shown, PictureFrame(self.width(), self.height(), self.scale)).shapes()
        )
