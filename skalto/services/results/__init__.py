"""Results kept in the blob store: made once, under keys of what they were made from, by whoever needs them first."""
