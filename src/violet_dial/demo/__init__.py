"""The demo workshop: an island bird observatory's loan pool, all invented."""
