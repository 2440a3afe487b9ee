"""What the bench can do: each use case one function, joining core, job and store."""
