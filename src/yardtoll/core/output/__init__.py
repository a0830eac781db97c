"""What the sockets hold: loads carried for a time, overloads, ports alone and together."""
