"""What the core raises when it cannot do its work.

UnusableDataError        the data or a value cannot be used; the message is one sentence
└── ValueOutOfRangeError a single value lies outside what is physically or logically possible
"""


class UnusableDataError(ValueError):
    """The data or a value cannot be used; ``str()`` is one clear sentence."""


class ValueOutOfRangeError(UnusableDataError):
    """One named value lies outside its permitted range."""

    def __init__(self, name: str, value: float, permitted: str) -> None:
        super().__init__(f"{name} is {value:g}; it must be {permitted}")
        self.name = name
        self.value = value
        self.permitted = permitted
