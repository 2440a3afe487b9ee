"""The colour of the light: spectra of lamps, filters and cells, and what they do to a reading."""
