"""The stops of the rail, in the order of the work."""

STOPS = ("Yard", "Claims", "Plan", "Run", "Ledger", "Verdicts", "Sheet")
YARD, CLAIMS, PLAN, RUN, LEDGER, VERDICTS, SHEET = range(len(STOPS))
