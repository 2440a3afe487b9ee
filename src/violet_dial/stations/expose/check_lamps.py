"""The command ``lamps``: what lamps seen over apertures and lights say of an automatic."""

from argparse import Namespace
from pathlib import Path

from violet_dial.core.errors import InvalidInput
from violet_dial.core.exposure.lamps import SEEN, LampObservation, Lamps, Law, Threshold, cause_said, lamps
from violet_dial.core.exposure.said import aperture_said, weight_said
from violet_dial.core.light.marks import parse_aperture, parse_time
from violet_dial.core.quantities import parse_number
from violet_dial.job.csv_text import Cells, Names, table_of
from violet_dial.services.files import read_given
from violet_dial.services.plain import as_json
from violet_dial.services.station import JSON, Command, Option

MOST_BYTES = 1_000_000
REQUIRED = ("aperture", "lux", "seen")


def read_looks(data: bytes) -> tuple[LampObservation, ...]:
    """Looks from the bytes of a CSV. Raises InvalidInput: not such a table, or a row that cannot be understood, by its line."""
    offered = table_of(data, "Lamps", Names(REQUIRED, (), {"f_number": "aperture", "lx": "lux", "lamp": "seen"})).offer(
        _look
    )
    if offered.rejected:
        first = offered.rejected[0]
        raise InvalidInput("Lamps", f"line {first.line}", f"rows that can be understood ({first.reason})")
    if not offered.found:
        raise InvalidInput("Lamps", "no rows", "at least one look")
    return offered.found


def _look(cell: Cells) -> LampObservation:
    seen = cell("seen").lower()
    if seen not in SEEN:
        raise InvalidInput("seen", seen, f"one of {', '.join(SEEN)}")
    return LampObservation(parse_aperture(cell("aperture"))[0], parse_number(cell("lux"), "lux"), seen)


ARGUMENTS = (
    Option("file", "a CSV of aperture, lux, seen (slow, over, none, both, flicker); - is standard input", type=Path),
    Option("--film-speed", "set on the camera (default 100)", "ISO", "100"),
    Option("--slow", "from which the slow lamp lights (default 1/30)", "TIME", "1/30"),
    Option("--shortest", "below which the over lamp lights (default 1/500)", "TIME", "1/500"),
    Option("--longest", "the longest time there is (default 8 s)", "TIME", "8 s"),
    Option("--apertures", "that can be set", "N,N,..", "2.8,5.6,16"),
    JSON,
)


def _run(options: Namespace) -> int:
    slow, shortest, longest = (parse_time(one)[0] for one in (options.slow, options.shortest, options.longest))
    law = Law(parse_number(options.film_speed, "--film-speed"), slow, shortest, longest)
    looks = read_looks(read_given(options.file, "Lamps", MOST_BYTES))
    apertures = tuple(parse_aperture(word)[0] for word in options.apertures.split(","))
    found = lamps(looks, law, apertures)
    if options.json:
        print(as_json(_plain(found, looks, law)))
        return 0
    for cause in found.causes[:3]:
        print(f"{weight_said(cause.weight)}: {cause_said(cause)}")
    if found.next is not None:
        print(f"Look next at {aperture_said(found.next[0])} in {found.next[1]:g} lx.")
    return 0


def _plain(found: Lamps, looks: tuple[LampObservation, ...], law: Law) -> dict[str, object]:
    return {
        "causes": [
            {"kind": cause.kind, "weight": cause.weight, "figure": cause.figure, "words": cause_said(cause)}
            for cause in found.causes
        ],
        "slow": _threshold(found.slow), "over": _threshold(found.over),
        "looks": [
            {"aperture": look.f_number, "lux": look.lux, "seen": look.seen, "meant": law.meant(look.f_number, look.lux)}
            for look in looks
        ],
        "next": None if found.next is None else {"aperture": found.next[0], "lux": found.next[1]},
    }  # fmt: skip


def _threshold(one: Threshold) -> dict[str, object]:
    return {"stops": one.stops, "u_stops": one.u_stops, "known": one.known}


COMMANDS = (Command("lamps", "what warning lamps over apertures and lights say of an automatic", ARGUMENTS, _run),)
