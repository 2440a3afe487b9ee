"""The job: an immutable document, its JSON form, its bundle and its readings as CSV."""
