"""Plan: which load, which meter, when to be back; start from here."""
