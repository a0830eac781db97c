"""Words of the marks that the program makes by itself."""

CUT_OFF = "Cut-off"
CHARGED = "Charged"
HELD = "Held"
AUTO_OFF = "Switched itself off"
RESUMED = "Resumed"
METER_LOST = "Meter lost"
METER_FOUND = "Meter answers again"
