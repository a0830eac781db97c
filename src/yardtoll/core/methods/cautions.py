"""Warnings shown where they apply. Local codes and the maker's instructions come first."""

NEVER_OPEN = (
    "Do not open a station: charged capacitors and cells can kill. "
    "Leave repair to qualified people."
)
UNATTENDED = "Do not leave a full-load run unattended near anything that burns."
VENTS_AND_ALARM = (
    "Keep the vents clear, heaters on a bare floor, and a smoke alarm working in the room."
)
CORDS = "Use cords and meters rated above the load for continuous use."
COOL_FIRST = "Let a hot station cool before charging; do not charge below 0 °C."
DC_VOLTS = (
    "Never exceed a DC input's volts: one cold morning is enough. Cover panels while connecting; "
    "their plugs are not switches."
)
LOCAL_FIRST = "Local codes and the maker's instructions come before anything said here."
MAINS_PROBE = (
    "The outlet's volts can kill: use a differential probe or a divider in a box, never a bare "
    "probe with its earth clip on a live wire."
)
HOT_PLUGS = "12 V sockets and barrel plugs get hot above 10 A: stop when one is too hot to touch."
MEDICAL = "Medical devices: a bench result is no guarantee; ask their maker."
