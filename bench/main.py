"""Everything measured, in one run."""

import sys
from pathlib import Path

from bench import (
    acts,
    against,
    boards,
    camera_run,
    cells,
    circuit,
    dials,
    ends,
    firings,
    fits,
    fogs,
    hostile,
    hour,
    intervals,
    ladders,
    lamp_looks,
    live,
    logs,
    opening,
    pictures,
    power,
    practice,
    proofs,
    recordings,
    runs,
    same,
    sheets,
    sisters,
    start_up,
    steady,
    trace,
    traces,
    trims,
)

ALONE = {
    "against": lambda given: against.report(given[0]),
    "same": lambda given: same.report(given[0]),
    "devices": lambda given: trace.report(int(given[1]) if given[1:] else trace.CASES, Path(given[0])),
    "ends": lambda given: ends.report(int(given[0]) if given else ends.USUAL),
    "hostile": lambda given: hostile.report(),
    "hour": lambda given: hour.report(float(given[0]) if given else hour.MINUTES),
}  # what is run by itself, by its word


def main() -> None:
    if sys.argv[1:2] and sys.argv[1] in ALONE:
        print(" ".join(sys.argv[1:]))
        ALONE[sys.argv[1]](sys.argv[2:])
        return
    print("Start")
    start_up.report()
    print("Acts and screens")
    acts.report()
    print("Open")
    opening.report()
    print("A check that runs by itself before a camera")
    camera_run.report()
    print("Practise")
    practice.report()
    print("Circuits")
    circuit.report()
    print("Steady readings")
    steady.report()
    print("Live readings (a soak of some minutes)")
    live.report()
    print("Hidden faults (this takes long; `bench/run NUMBER` hides fewer)")
    trace.report(int(sys.argv[1]) if len(sys.argv) > 1 else trace.CASES)
    print("Boards traced by touches (this takes long too)")
    boards.report()
    print("A sister unit beside the sick one")
    sisters.report()
    print("Cells")
    cells.report()
    print("Batteries")
    power.report()
    for title, one in (
        ("Recorded traces", traces),
        ("Firings of a shutter", firings),
        ("Long recordings, drawing, live", recordings),
        ("The ladder of speeds", ladders),
        ("Lamps", lamp_looks),
        ("Test shots", trims),
        ("Two pictures", pictures),
        ("Repairs proved", proofs),
        ("Fog on film", fogs),
        ("Logs of firings", logs),
        ("Sheets", sheets),
        ("Needles seen by a camera", dials),
        ("Checks that run by themselves", runs),
    ):
        print(title)
        one.report()
    print("Fits")
    fits.report()
    print("What Light states, beside the truth")
    intervals.report()


if __name__ == "__main__":
    main()
