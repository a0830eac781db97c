"""The demo yard and the bench that a new yard starts with."""
