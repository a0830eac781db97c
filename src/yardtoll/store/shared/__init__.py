"""An archive that several benches share: a database server that yards are sent to and read from."""
