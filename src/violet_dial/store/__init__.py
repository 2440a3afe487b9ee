"""The workshop file: every version of every job, photos by content, search."""
