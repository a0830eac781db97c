"""The stops of the rail, in the order of the work."""

STOPS = ("Yard", "Claims", "Plan", "Run", "Ledger", "Verdicts")
YARD, CLAIMS, PLAN, RUN, LEDGER, VERDICTS = range(len(STOPS))
