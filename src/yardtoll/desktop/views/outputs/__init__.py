"""The Outputs stop: what comes out of the sockets, how steadily, how much, and until what."""
