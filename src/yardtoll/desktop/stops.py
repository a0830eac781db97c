"""The stops of the rail, in the order of the work."""

STOPS = ("Yard", "Plan", "Run", "Ledger", "Verdicts")
YARD, PLAN, RUN, LEDGER, VERDICTS = range(len(STOPS))
