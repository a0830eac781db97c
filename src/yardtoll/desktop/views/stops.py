"""The stops of the rail, in the order of the work."""

STOPS = ("Yard", "Claims", "Plan", "Run", "Ledger", "Sun", "Verdicts", "Sheet")
YARD, CLAIMS, PLAN, RUN, LEDGER, SUN, VERDICTS, SHEET = range(len(STOPS))
