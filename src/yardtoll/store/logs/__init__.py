"""Reading meter logs of any shape into traces.

sniff     bytes → encoding, delimiter, header line
table     file → a table of text cells
numbers   text cells → float64, with units, thousands separators and decimal commas
times     text cells → seconds
columns   headers → a guessed mapping of columns to quantities
read      all of it in order: file → Trace
"""
