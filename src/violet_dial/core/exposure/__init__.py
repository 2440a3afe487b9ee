"""Exposure: the setting at which a camera that times itself by its cell gives the right picture."""
