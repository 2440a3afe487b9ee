"""What the eye says, opened to its arithmetic: the dial from its marks, and what the needle did while it was watched."""

import math

from violet_dial.core.quantities import format_signed
from violet_dial.job.document import Job
from violet_dial.services.station import Section
from violet_dial.stations.light.eye_state import face_or_why

TITLE = "How the needle is read"


def eye_opened(job: Job) -> tuple[str, tuple[Section, ...]]:
    """The marks with what each is missed by, the dial they make, trials of the needle."""
    face, why = face_or_why(job.light.dial)
    if face is None:
        return TITLE, (("Nothing yet", (why or "three marks of the scale are needed",)),)
    marks = tuple(
        f"{mark.value:g}\tat {mark.x:.1f}, {mark.y:.1f} px; {format_signed(math.degrees(angle))}°"
        + (f"; left out, it is missed by {format_signed(100 * miss)} % of the scale" if math.isfinite(miss) else "")
        for mark, angle, miss in zip(face.marks, face.angles, face.check, strict=True)
    )
    law = "straight in the logarithm of the value" if face.is_log else "straight in the value"
    dial = (
        f"pivot\t{face.pivot[0]:.1f}, {face.pivot[1]:.1f} px by least squares",
        f"scale\tradius {face.radius_px:.1f} px; marks miss it by {face.residual_px:.2f} px (root mean square)",
        f"law\t{law} between marks, monotone cubic",
        "reading\ta line through the needle's middle at 40 radii, taken to the scale; u from its scatter, the marks, the check",
    )
    notes = tuple(
        (f"{one.taken_at[:16].replace('T', ' ')}: {one.words}", one.rows or ("no figures",))
        for one in reversed(job.light.needle)
    )
    return TITLE, (("Marks", marks), ("Dial", dial), *notes[:12])
