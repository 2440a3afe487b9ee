"""Devices with hidden faults: drawn, answering, played through, scored."""
