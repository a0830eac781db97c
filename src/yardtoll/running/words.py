"""Words of the marks that the program makes by itself."""

HELD = "Held"
AUTO_OFF = "Switched itself off"
RESUMED = "Resumed"
METER_LOST = "Meter lost"
METER_FOUND = "Meter answers again"
