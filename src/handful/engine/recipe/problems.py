"""What is wrong with a recipe, where, and what would be right."""

from __future__ import annotations

from typing import Any, NamedTuple


class Problem(NamedTuple):
    """`path` as in `layers[2].steps[0].near`; `nearest` is the closest value that would do, if any."""

    path: str
    says: str
    nearest: Any = None

    def __str__(self) -> str:
        remedy = "" if self.nearest is None else f" The nearest that works is {self.nearest!r}."
        return f"{self.path or 'recipe'}: {self.says}{remedy}"


class RecipeError(Exception):
    """A recipe that cannot be used, with everything that is wrong with it."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("\n".join(str(problem) for problem in problems))
        self.problems = problems

    def __reduce__(self) -> tuple[type[RecipeError], tuple[list[Problem]]]:
        """It comes from another process as it was."""
        return type(self), (self.problems,)


class NoRecipe(RecipeError):
    """What is no recipe at all, so that nothing in it can be put right."""
