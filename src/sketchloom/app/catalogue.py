"""The catalogue: the window's own commands, declared once each with key, icon and help; steps declare theirs."""

from sketchloom.app.commands import Command
from sketchloom.app.demo import DEMOS
from sketchloom.app.frame import Frame

__all__ = ["declare"]


def declare(window: Frame) -> None:
    """Declare the commands of a window and of its steps."""
    for group, some in (
        ("Files", _files), ("Changes", _history), ("View", _canvas), ("Window", _window), ("Steps", _steps),
    ):  # fmt: skip
        window.commands.group = group
        some(window)


def _have(window: Frame) -> bool:
    return window.model.job is not None


def _files(window: Frame) -> None:
    add, ask = window.commands.add, window.dialogs
    have = lambda: _have(window)  # noqa: E731
    kinds = "PNG, JPEG, WebP, HEIC, TIFF, BMP, GIF, PDF or .loom"
    add("open", Command("Open pictures or jobs…", ask.open, "Ctrl+O", "folder-open", kinds, in_fields=True))
    add("paste", Command("Paste a picture", window.paste, "Ctrl+V", help="A picture or files from the clipboard"))
    add("demo", Command("Open the demo job", window.open_demo, help=DEMOS["badge"].help))
    for key, demo in DEMOS.items():
        if key != "badge":
            open_it = lambda key=key: window.open_demo(key)  # noqa: E731
            add(f"demo-{key}", Command(f"Open the demo: {demo.name}", open_it, help=demo.help))
    add("save", Command("Save the job", ask.save_job, "Ctrl+S", "save", "Picture and settings as .loom", have, True))
    add("save-as", Command("Save the job as…", ask.save_job_as, "Ctrl+Shift+S", can=have, in_fields=True))
    help_text = "The job goes on in its own file"
    add("save-copy", Command("Save a copy of the job…", ask.save_copy, help=help_text, can=have, in_fields=True))
    variant = "A variant beside it, which goes its own way"
    kept = "To come back to, and to compare"
    add("version", Command("Keep this state as a version", window.model.keep_version, help=kept, can=have))
    both = "Two versions, or two jobs, with their figures"
    add("beside", Command("Compare side by side", window.show_beside, help=both, can=have))
    add("logbook", Command("Open the logbook", window.show_logbook, help="What was cut, and the stock on hand"))
    what = "These settings for whole folders, a file a picture"
    add("many", Command("Do this with more pictures…", window.show_many, help=what, can=have))
    add("duplicate", Command("Duplicate this job", window.model.duplicate, help=variant, can=have))
    add(
        "send",
        Command(
            "Save all layers in one file…", lambda: ask.send(False), "Ctrl+E", "download", "For the cutter", have, True
        ),
    )
    add(
        "send-each",
        Command("Save one file a layer…", lambda: ask.send(True), "Ctrl+Shift+E", can=have, in_fields=True),
    )
    what = "The layer in hand, or all of them, for another program"
    add("copy", Command("Copy as SVG", window.copy_svg, "Ctrl+Shift+C", help=what, can=have))
    what = "The prepared picture at its finished size"
    add(
        "print",
        Command("Save PNG to print and line to cut…", window.by_key["prepare"].print.save.click, help=what, can=have),
    )


def _history(window: Frame) -> None:
    add, model = window.commands.add, window.model
    add("undo", Command("Undo", model.undo, "Ctrl+Z", "undo-2", can=lambda: model.undo_name is not None))
    add(
        "redo",
        Command("Redo", model.redo, "Ctrl+Shift+Z or Ctrl+Y", "redo-2", can=lambda: model.redo_name is not None),
    )


def _steps(window: Frame) -> None:
    """A key for each step, the tenth on 0; and what the steps declare themselves."""
    add = window.commands.add
    have = lambda: _have(window)  # noqa: E731
    for number, step in enumerate(window.steps, 1):
        key = str(number % 10) if number <= 10 else ""
        go = lambda key=step.key: window.show_step(key)  # noqa: E731
        add(f"step-{step.key}", Command(f"Go to {step.name}", go, key, can=have))
    for step in window.steps:
        window.commands.group = step.name
        for identifier, command in step.commands():
            add(identifier, command)
        for card in step.cards:
            opens = step.here(lambda: None, card)
            can = lambda card=card: _have(window) and not card.isHidden()  # noqa: E731
            add(f"card-{step.key}-{card.name}", Command(f"Open {step.name}: {card.name}", opens, can=can))


def _canvas(window: Frame) -> None:
    add, canvas, lift = window.commands.add, window.canvas, window.lift
    have = lambda: _have(window)  # noqa: E731
    for view in canvas.views.values():
        if view.tab:
            show = lambda key=view.key: window.show_view(key)  # noqa: E731
            add(f"view-{view.key.lower()}", Command(f"Show {view.tab.lower()}", show, can=have))
    divider = "A divider to drag; Shift and arrows move it"
    add("compare", Command("Before and after", window.toggle_compare, "D", help=divider, can=have))
    add("fit", Command("Fit the picture in view", canvas.fit, "F", "maximize"))
    add("zoom-in", Command("Zoom in", lambda: canvas.zoom_by(1.25), "+ or =", "plus"))
    add("zoom-out", Command("Zoom out", lambda: canvas.zoom_by(0.8), "-", "minus"))
    add("zoom-real", Command("Show at its real size, 100 %", canvas.show_real_size, "Shift+F", can=have))
    add("zoom-chosen", Command("Zoom to what is chosen", window.zoom_to_chosen, "Z", can=have))
    add("lift-up", Command("Lift the layers", lambda: lift.setValue(lift.value() + 10), "L", can=have))
    add("lift-down", Command("Lower the layers", lambda: lift.setValue(lift.value() - 10), "Shift+L", can=have))
    add("ground", Command("Next canvas ground", canvas.scene.next_ground, help="The colour behind the work"))


def _window(window: Frame) -> None:
    add = window.commands.add
    add("unit", Command("Change the unit: mm, cm, in", window.next_unit, "U"))
    add("theme", Command("Light or dark", window.toggle_theme, icon="moon"))
    add("stop", Command("Stop the work, or let go of the layer", window.stop, "Esc", "x"))
    what = "Units, look, threads, first stock and cutter, folders; the whole workshop as a file"
    add("preferences", Command("Preferences", window.show_preferences, "Ctrl+,", help=what))
    add("find", Command("Find a command", window.finder.start, "Ctrl+K", "search", in_fields=True))
    words, show = "All commands and their keys", window.all_commands.open
    add("keys", Command(words, show, "F1", "circle-question-mark", in_fields=True))
