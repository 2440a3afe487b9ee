"""What the pages of all stations share: widgets, theme, the runner of long work. It knows Qt and no station."""
