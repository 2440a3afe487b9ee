"""Opening and closing: steps taken, the way back, the way in, tallies, the tray."""
