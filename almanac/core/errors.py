"""What the core raises."""


class ContractError(ValueError):
    """A caller's bug: an argument is outside the documented range. The message names it and the value got."""


class NoEstimate(Exception):
    """There is no estimate, which is an answer; the message is its reason."""
