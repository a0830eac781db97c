"""A station, a load and a meter that exist only as arithmetic, reached over real wires."""
