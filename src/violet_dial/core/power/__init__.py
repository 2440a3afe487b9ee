"""Power: cells, what is put into their lead, the error that makes, how long they last."""
