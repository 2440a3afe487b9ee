"""A board said in bench words, for the tests of the map."""

from violet_dial.core.mapping.board import Board
from violet_dial.core.mapping.change import say

DRIVE = """battery 6 clip+ to chassis, battery cover
red wire clip+ to S1
S1 off/on: common to -, rail0
regulator in rail0 out rail gnd chassis 2.6 V
R4 2k2 from ctl to Q1 base
R5 822 Q1 base to chassis
Q1 npn e chassis b R4 right c coil-
magnet rail0 to coil- 180 ohm
D2 schottky coil- to rail0, band to rail0
C7 226 rail to chassis
IC3 pins 1 rail, 2 chassis, 7 ctl, 9 clk
sister IC3 7 2.5 V, asleep 0 V
IC3 pin 7 drives
cell cds rail to a
movement a to chassis 120 uA full, behind top cover
lamp slow from rail to clk"""


def said(lines: str = DRIVE) -> Board:
    """A board of some lines."""
    board = Board()
    for line in lines.split("\n"):
        board, _ = say(board, line)
    return board
