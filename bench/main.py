"""Everything measured, in one run."""

import sys

from bench import (
    acts,
    against,
    boards,
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
    sheets,
    sisters,
    start_up,
    steady,
    trace,
    traces,
    trims,
)


def main() -> None:
    if sys.argv[1:2] == ["against"]:
        print(f"Beside {sys.argv[2]}")
        against.report(sys.argv[2])
        return
    if sys.argv[1:2] == ["ends"]:
        ends.report(int(sys.argv[2]) if len(sys.argv) > 2 else ends.USUAL)
        return
    if sys.argv[1:2] == ["hostile"]:
        hostile.report()
        return
    if sys.argv[1:2] == ["hour"]:
        hour.report(float(sys.argv[2]) if len(sys.argv) > 2 else hour.MINUTES)
        return
    print("Start")
    start_up.report()
    print("Acts and screens")
    acts.report()
    print("Open")
    opening.report()
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
