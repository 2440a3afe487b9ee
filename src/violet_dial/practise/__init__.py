"""Practise: a device with a hidden fault, worked with the real stations; what one did beside the best path; what one knows."""

from violet_dial.practise import check, exercise, files, state, table
from violet_dial.services.keys import Key
from violet_dial.services.station import Exercises, Screenshot, Station
from violet_dial.stations import STATIONS

STATION = Station(
    name="Practise",
    page="violet_dial.practise.page:PractisePage",
    state=state.state,
    next=state.next_of,
    words=state.words,
    finding=state.finding,
    file_out=table.FILE_OUT,
    commands=check.COMMANDS,
    exercises=Exercises(exercise.counted, files.acts_in, files.MOST_BYTES, exercise.under_test, exercise.hides),
    keys=(
        Key(("Ctrl+Tab",), "from the bench to the replay and the progress, and round"),
        Key(("Left", "Right", "Enter"), "on the replay (F5): a step before or after; the stations as they stood then"),
        Key(("Ctrl+E",), "the result of the exercise, or the progress over all, into a file"),
        Key(("F3",), "points, minutes, chances and skills down to their arithmetic"),
    ),
    shots=(
        Screenshot("practise", "Practice 2, level 1"),
        Screenshot("practise-replay-night", "Practice 2, level 1", page=state.REPLAY, theme="night"),
        Screenshot("practise-progress", "Practice 2, level 1", page=state.PROGRESS),
    ),
)
# The line of the practice workshop: that of the work, and where its exercises are worked and looked back over.
PRACTICE_LINE: tuple[Station, ...] = (*STATIONS, STATION)
