"""The meter's error as a smooth curve over the light, as found and as the shift would leave it."""

from dataclasses import dataclass

import numpy as np

from violet_dial.core.calibration.assess import Assessment
from violet_dial.core.calibration.models import average
from violet_dial.core.calibration.readings import Array


@dataclass(frozen=True)
class Response:
    """Error in stops over EV100, both shape (n,), within the span of the readings; ``after`` with the shift made."""

    ev100: Array
    before: Array
    after: Array


def response(assessment: Assessment, points: int = 97) -> Response:
    """The fitted response, or straight lines between level means when no model describes the readings.

    Empty arrays when there is nothing to draw (fewer than two levels). ``assessment``: what the readings say of the meter,
    errors in stops over EV100.
    """
    if len(assessment.levels) < 2:
        return Response(np.zeros(0), np.zeros(0), np.zeros(0))
    levels = np.array([level.ev100 for level in assessment.levels])
    x = np.linspace(levels[0], levels[-1], points)
    if assessment.described and any(fit.fitted for fit in assessment.fits):
        before, _ = average(assessment.fits, x)
    else:
        before = np.interp(x, levels, [level.error_stops for level in assessment.levels])
    return Response(x, before, before + assessment.shift.stops)
