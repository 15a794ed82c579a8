"""Run a recipe on a picture: stages asked for by name, each result remembered."""

import time
from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from sketchloom.core.errors import Cancelled
from sketchloom.core.inspect import Memory
from sketchloom.core.job.memo import Memo
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.result import Failure, Result
from sketchloom.core.job.stages import ENDS, PREVIEW_PIXELS, STAGES, Stage, key_of
from sketchloom.core.picture import Picture
from sketchloom.core.progress import Tick

__all__ = ["Pipeline", "Progress", "silent"]

_Value = TypeVar("_Value")
Progress = Callable[[str, float], None]
"""Called with a stage's name and the share of it that is done; raises `Cancelled` to stop the run."""

_CACHE_BYTES = 800_000_000
_FIRST = ("palette", "choices", "extent")
_BESIDE = ("narrowest", "checked", "ready", "sheets")
_WANTED = (*_FIRST, *(name for name in ENDS if name not in (*_FIRST, *_BESIDE)))
"""Asked for by default, with all that they need; what a maker mends failures by comes first. The narrowest places are
measured, layers checked and laid on sheets, beside the work."""
_IN_PREVIEW = ("palette", "extent", "mended")

_STAGE_OF_PART = {
    "prepare": "prepare",
    "separate": "tones",
    "tidy": "tidy",
    "trace": "trace",
    "layers": "layers",
    "finish": "scale",
    "checks": "mended",
    "sheets": "sheets",
}
"""Where a setting that cannot be used is shown, by its part of the recipe."""


def silent(stage: str, done: float) -> None:
    """Report to nobody."""


class Pipeline:
    """Runs recipes; keeps stage results while they fit in `cache_bytes`.

    A result's key is a hash of the stage, its settings and the keys of what
    it needs, so a change recomputes its stage and what stands below, nothing
    above.
    """

    def __init__(self, cache_bytes: int = _CACHE_BYTES) -> None:
        self._memo = Memo(cache_bytes)
        self._memory = Memory.new()
        self._remembers = cache_bytes > 0

    @property
    def bytes_kept(self) -> int:
        """What the remembered results hold, those of checks too."""
        return self._memo.bytes_kept + self._memory.bytes_kept

    def remembered(self, known_by: Sequence[Any], work: Callable[[], _Value]) -> _Value:
        """Work something out that is no stage, or give what is remembered of it; known by what JSON can tell."""
        value: _Value = self._memo.get(key_of(*known_by) if self._remembers else "", work)[0]
        return value

    def run(
        self,
        picture: Picture,
        recipe: Recipe,
        progress: Progress = silent,
        preview: bool = False,
        names: Sequence[str] | None = None,
    ) -> Result:
        """Run stages; as `results`, but a failure is raised.

        Raises
        ------
        ArgumentError, NothingToCutError
        Cancelled
            When `progress` raises it.
        """
        result = self.results(picture, recipe, progress, preview, names)
        if result.failure is not None:
            raise result.failure.error
        return result

    def results(
        self,
        picture: Picture,
        recipe: Recipe,
        progress: Progress = silent,
        preview: bool = False,
        names: Sequence[str] | None = None,
    ) -> Result:
        """Run stages as far as they go.

        Parameters
        ----------
        picture : Picture
        recipe : Recipe
        progress : callable
        preview : bool
            Run on a reduced picture, with the tones and inks of the full one.
        names : sequence of str, optional
            Stages whose results are wanted, with all that they need; by default all that lead to the layers.

        Returns
        -------
        Result
            With the failure of the stage that failed, if one did.

        Raises
        ------
        Cancelled
            When `progress` raises it.
        """
        full = run = _Run(self._memo, self._memory, self._remembers, picture, recipe, progress)
        wanted = names or (_IN_PREVIEW if preview else _WANTED)
        failure = None
        part = ""
        try:
            for part in Recipe.__struct_fields__:
                recipe.check_part(part)
            part = ""
            ready: Picture = full.ask("restored").picture
            if preview and ready.width * ready.height > PREVIEW_PIXELS:
                run = _Run(self._memo, self._memory, self._remembers, picture, recipe, progress, full)
            for name in wanted:
                run.ask(name)
        except Cancelled:
            raise
        except Exception as error:  # shown at its stage; what stands above it is given
            failure = Failure(_STAGE_OF_PART.get(part, run.at), error)
        small = run.values.get("picture")
        reduction = small.width / full.values["prepare"].picture.width if small is not None else 1.0
        return Result(recipe, {**full.values, **run.values}, reduction, run.timings, failure, run is not full)


class _Run:
    """One run: results and keys of its stages, each worked out once."""

    def __init__(
        self,
        memo: Memo,
        memory: Memory,
        remembers: bool,
        opened: Picture,
        recipe: Recipe,
        progress: Progress,
        full: "_Run | None" = None,
    ) -> None:
        self._memo, self.memory, self.remembers = memo, memory, remembers
        self.opened, self.recipe, self._progress = opened, recipe, progress
        self.full = full
        self.values: dict[str, Any] = {}
        self.keys: dict[str, str] = {}
        self.timings: dict[str, float] = full.timings if full else {}
        self._place: list[str] = full._place if full else []

    @property
    def at(self) -> str:
        """The stage in hand, or the one that failed."""
        return self._place[-1] if self._place else next(iter(STAGES))

    def ask(self, name: str) -> Any:
        """Give the result of a stage, with all that it needs."""
        if name in self.values:
            return self.values[name]
        stage = STAGES[name]
        if self.full is not None and stage.preview == "full":
            self.values[name], self.keys[name] = self.full.ask(name), self.full.keys[name]
            return self.values[name]
        settings = stage.hangs_on(self.recipe)
        needs = stage.needs if isinstance(stage.needs, tuple) else stage.needs(self.recipe, self._road)
        for need in needs:
            self.ask(need)
        guides = (name, *needs) if self.full is not None and stage.preview == "guided" else ()
        if self.full is not None and guides:
            self.full.ask(name)
        self._place.append(name)
        key = self._key(name, settings, needs, guides)
        asked = _Asked(self, stage, needs)
        value, outcome = self.timed(name, key, lambda tick: asked.work(settings, tick))
        self._place.pop()
        self.values[name] = value
        self.keys[name] = key if outcome is None or not self.remembers else key_of(f"{name} is", outcome)
        return value

    def _road(self) -> str:
        mode: str = self.ask("road").mode
        return mode

    def _key(self, name: str, settings: Any, needs: Sequence[str], guides: Sequence[str]) -> str:
        if not self.remembers:
            return ""
        guided = [self.full.keys[guide] for guide in guides] if self.full else []
        picture = self.opened.key if not needs else ""
        reduced = self.full is not None
        return key_of(name, settings, [self.keys[need] for need in needs], guided, picture, reduced)

    def timed(self, name: str, key: str, work: Callable[[Tick], Any]) -> Any:
        """Give what is remembered by a key, or work it out, report it and count its time.

        What was worked out is remembered before anything can call it off.
        """
        begun, inner = time.perf_counter(), sum(self.timings.values())

        def do() -> Any:
            self._progress(name, 0.0)
            return work(lambda done: self._progress(name, done))

        value, fresh = self._memo.get(key, do)
        spent = time.perf_counter() - begun - (sum(self.timings.values()) - inner)
        self.timings[name] = self.timings.get(name, 0.0) + (max(spent, 0.0) if fresh else 0.0)
        if fresh:
            self._progress(name, 1.0)
        return value


class _Asked:
    """What the work of one stage may ask for: only what it says that it needs, or its keys would lie."""

    def __init__(self, run: _Run, stage: Stage, needs: Sequence[str]) -> None:
        self._run, self._stage, self._needs = run, stage, needs
        self.opened, self.memory = run.opened, run.memory
        self.preview = run.full is not None

    def work(self, settings: Any, tick: Tick) -> tuple[Any, Any]:
        """Do the work; gives the result, and what it comes to."""
        value = self._stage.work(self, settings, tick)
        wanted = self._stage.outcome is not None and self._run.remembers
        return value, self._stage.outcome(self, settings, value) if wanted and self._stage.outcome else None

    def __call__(self, name: str) -> Any:
        if name not in self._needs:
            raise LookupError(f"“{self._stage.name}” does not say that it needs “{name}”.")
        return self._run.values[name]

    def key(self, name: str) -> str:
        return self._run.keys[name]

    def full(self, name: str) -> Any:
        if self._run.full is None:
            return None
        if self._stage.preview != "guided" or name not in (self._stage.name, *self._needs):
            raise LookupError(f"“{self._stage.name}” does not say that it needs the full “{name}”.")
        return self._run.full.values[name]

    def once(self, name: str, needs: tuple[str, ...], settings: Any, work: Callable[[Tick], Any]) -> Any:
        key = self._run._key(f"{self._stage.name}: {name}", settings, needs, ())
        return self._run.timed(self._stage.name, key, work)
