"""The errors that a person is meant to read."""


class SceneError(ValueError):
    """Something in the scene or a file is wrong.

    `path` names the place in the document ("land.0.feature_size_m") or the file;
    `advice` says what to do about it.
    """

    def __init__(self, message: str, path: str = "", advice: str = "", entry: str = ""):
        super().__init__(message)
        self.message = f"“{entry}”: {message}" if entry and not message.startswith("“") else message
        self.path = path
        self.advice = advice

    def __str__(self) -> str:
        place = f"{self.path}: " if self.path else ""
        return f"{place}{self.message}" + (f" {self.advice}" if self.advice else "")


class Cancelled(Exception):
    """A newer edit or the person stopped this build."""
