"""What is wrong with the devices of the demo, for its simulated bench: in keeping with what was measured so far."""

HIDDEN: dict[str, str] = {  # by the circuit's name
    "CdS series meter": "Rwred:high resistance:150k",
    "Silicon cell with slow and over lamps and a magnet-held shutter": "Rwred:open",
    "Selenium cell and movement": "Rring:open",
    "CdS bridge with null": "",  # put right already
}
