"""Interface tests: real windows, real key presses, no monitor."""

import os

os.environ["QT_QPA_PLATFORM"] = "offscreen"
