"""Files that the job in hand is written to: the job, its layers, pictures."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import SignalInstance

from sketchloom.app.held import Held
from sketchloom.app.runner import Progress, Runner, StageFailedError
from sketchloom.app.shelf import OwnShelf
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import (
    Pipeline,
    PrintSettings,
    Recipe,
    Result,
    SendSettings,
    papers_of,
    preview_of,
    print_and_cut,
    sent_files,
    sent_test_cut,
    sheet_names,
    work_of,
    write_job,
    zipped,
)
from sketchloom.core.paper import assembly_file
from sketchloom.core.picture import Picture
from sketchloom.core.send import (
    SVG,
    WRITERS,
    file_stem,
    files_of,
    names_of,
    page_of_layers,
    page_of_sheet,
    write_all,
    written,
)
from sketchloom.core.sheets import Guest, Layout, Work, lay_out, why_not
from sketchloom.core.stock import Stock

__all__ = ["JobFiles"]


class JobFiles:
    """What of the model writes files, in their turn, beside the window; only a maker calls them off, a job no one."""

    runner: Runner
    pipeline: Pipeline
    current: Held | None
    picture: Picture | None
    result: Result | None
    presets: OwnShelf
    sent: str
    said: SignalInstance
    result_ready: SignalInstance
    job_saved: SignalInstance

    @property
    def recipe(self) -> Recipe:
        """The recipe in force."""
        raise NotImplementedError

    @property
    def stale(self) -> bool:
        """Whether the newest result is not one of the recipe in force."""
        raise NotImplementedError

    def save_print(self, path: Path, settings: PrintSettings) -> None:
        """Write the prepared picture as PNG to print, and beside it the line to cut round it."""

        def files(result: Result, progress: Progress) -> dict[Path, bytes]:
            prepared = result.prepared.picture
            width_mm = result.picture.width / result.finished.px_per_mm
            both = print_and_cut(prepared, width_mm, settings, self.pipeline, progress)
            return {path: both.png, path.with_name(f"{path.stem}-cut.svg"): both.svg}

        def done(names: list[str]) -> None:
            self.said.emit(f"Saved {names[0]} to print and {names[1]} to cut in {path.parent}.")

        self._write(files, done)

    def make_svg(self, layer: str, take: Callable[[bytes], object]) -> None:
        """Make the SVG of a layer, or of all where there is none of that key, for what takes it then."""
        made: list[bytes] = []

        def files(result: Result, progress: Progress) -> dict[Path, bytes]:
            cuts = result.stack.cuts
            own = cuts.cut(layer)
            made.append(written(SVG, page_of_layers(cuts, None if own is None else [own])))
            return {}

        self._write(files, lambda _: take(made[0]))

    def save_assembly(self, path: Path) -> None:
        """Draw the layers lifted apart and numbered; the ending says whether as PNG or as SVG."""

        def files(result: Result, progress: Progress) -> dict[Path, bytes]:
            return {path: assembly_file(result.stack, result.recipe.look.behind, path.suffix.lower())}

        self._write(files, lambda names: self.said.emit(f"Saved {names[0]} in {path.parent}."))

    def save_sheets(self, folder: Path, guests: Sequence[Guest] = ()) -> None:
        """Write one file a sheet into a folder; the work of guests lies on them too."""

        def files(result: Result, progress: Progress) -> dict[Path, bytes]:
            layout, work = _laid(result, guests, progress)
            names, ids = sheet_names(layout), names_of(work.every)
            return {
                folder / f"{name}.svg": written(SVG, page_of_sheet(sheet, ids))
                for name, sheet in zip(names, layout.sheets, strict=True)
            }

        def done(names: list[str]) -> None:
            what = f"{len(names)} sheet{'s' * (len(names) != 1)} in {folder}"
            self.sent = what
            self.said.emit(f"Saved {what}.")
            self.result_ready.emit()

        self._write(files, done, ("palette", "sheets"))

    def save_test_cut(self, path: Path, stock: Stock | None) -> None:
        """Write the test cut of a stock; the ending says the format."""

        def files(result: Result, progress: Progress) -> dict[Path, bytes]:
            form = path.suffix.lower().removeprefix(".")
            return {path: sent_test_cut(path.stem, stock, result.recipe.sheets, form, SendSettings()).data}

        self._write(files, lambda names: self.said.emit(f"Saved {names[0]} in {path.parent}."))

    def send_all(
        self, folder: Path, settings: SendSettings, zip_too: bool, guests: Sequence[Guest] = (), unit: str = "mm"
    ) -> None:
        """Write layers or sheets in all formats that are asked for into a folder, papers beside them, and a ZIP."""
        name = self.current.job.name if self.current is not None else ""
        presets = self.presets.things

        def files(result: Result, progress: Progress) -> dict[Path, bytes]:
            laid = _laid(result, guests, progress) if "sheets" in settings.needs else None
            made = sent_files(name, result.stack, laid, settings, progress)
            made += papers_of(name, result, laid, settings, presets, unit, progress)
            sent = [(one.path, one.data) for one in made]
            if zip_too:
                plain = file_stem(name)
                sent.append((f"{plain}.zip", zipped(plain, sent)))
            return {folder / path: data for path, data in sent}

        def done(names: list[str]) -> None:
            self.sent = f"{len(names)} file{'s' * (len(names) != 1)} in {folder}"
            self.said.emit(f"Saved {self.sent}.")
            self.result_ready.emit()

        self._write(files, done, settings.needs)

    def send(self, path: Path, each: bool) -> None:
        """Write the layers, all in one file, or one file a layer beside it; the ending says the format."""

        def files(result: Result, progress: Progress) -> dict[Path, bytes]:
            made = files_of(WRITERS[path.suffix.lower()], result.stack.cuts, each)
            return {path.with_name(f"{path.stem}{name}{path.suffix}"): data for name, data in made.items()}

        def done(names: list[str]) -> None:
            what = names[0] if len(names) == 1 else f"{len(names)} files"
            self.sent = f"{what} in {path.parent}"
            self.said.emit(f"Saved {what} in {path.parent}.")
            self.result_ready.emit()

        self._write(files, done)

    def _write(
        self,
        files: Callable[[Result, Progress], dict[Path, bytes]],
        done: Callable[[list[str]], None],
        names: tuple[str, ...] | None = None,
    ) -> None:
        """Write files of the recipe in force, in their turn, whatever is changed meanwhile; `names` of stages."""
        picture, recipe = self.picture, self.recipe
        if picture is None:
            return

        def work(progress: Progress) -> list[str]:
            asked = {} if names is None else {"names": names}
            result = self.pipeline.results(picture, recipe, progress, **asked)
            if result.failure is not None:
                raise StageFailedError(result.failure)
            progress("send", 0.0)
            made = files(result, progress)
            progress("send", 0.9)
            write_all(made)
            return [file.name for file in made]

        self.runner.enqueue(work, done, "send", stays=True)

    def save_copy(self, path: Path) -> None:
        """Write the job in hand to another file; it stays that of the file it was read from, changes and all."""
        held = self.current
        if held is not None:
            self._write_job(path, held, lambda: self.said.emit(f"Saved a copy as {path.name} in {path.parent}."))

    def save(self, path: Path, held: Held | None = None, then: Callable[[], object] = lambda: None) -> None:
        """Write a job file, by default of the job in hand; what the recipe makes of it is put in where it is known."""
        held = held or self.current
        if held is None:
            return
        job = held.now

        def done() -> None:
            held.path, held.saved = path, job
            self.said.emit(f"Saved the job as {path.name} in {path.parent}.")
            self.job_saved.emit()
            then()

        self._write_job(path, held, done)

    def _write_job(self, path: Path, held: Held, done: Callable[[], object]) -> None:
        job, result = held.now, None if self.stale or held is not self.current else self.result

        def work(progress: Progress) -> None:
            progress("send", 0.0)
            svg = preview = None
            if result is not None:
                svg = files_of(SVG, result.stack.cuts, each=False)[""]
                preview = preview_of(result)
            write_job(path, job, svg, preview)

        self.runner.enqueue(work, lambda _: done(), "send", must=True)


def _laid(result: Result, guests: Sequence[Guest], progress: Progress) -> tuple[Layout, Work]:
    """Give the sheets with what lies on them, that of guests too; raises ArgumentError where they must not be cut."""
    work, settings = work_of(result, guests), result.recipe.sheets
    layout = lay_out(work, settings, lambda done: progress("sheets", done)) if guests else result.layout
    forbidden = why_not(layout, settings.cutter)
    if forbidden:
        raise ArgumentError(forbidden)
    return layout, work
