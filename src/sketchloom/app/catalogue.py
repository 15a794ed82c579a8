"""The catalogue: every command of the window, declared once with its key, icon and help."""

from typing import TYPE_CHECKING

from sketchloom.app.canvas import VIEWS
from sketchloom.app.commands import Command
from sketchloom.core.curves import PRESETS

if TYPE_CHECKING:
    from sketchloom.app.window import Window

__all__ = ["declare"]


def declare(window: "Window") -> None:
    """Declare the commands of a window."""
    add = window.commands.add
    have = lambda: window.model.job is not None  # noqa: E731
    add(
        "open",
        Command(
            "Open pictures or jobs…",
            window.ask_open,
            "Ctrl+O",
            "folder-open",
            "PNG, JPEG, WebP, HEIC, TIFF, BMP, GIF, PDF or .loom",
            in_fields=True,
        ),
    )
    add("paste", Command("Paste a picture", window.paste, "Ctrl+V", help="A picture or files from the clipboard"))
    add("demo", Command("Open the demo job", window.open_demo, help="The summer fair badge"))
    add(
        "save",
        Command("Save the job", window.save_job, "Ctrl+S", "save", "Picture and settings as .loom", have, True),
    )
    add("save-as", Command("Save the job as…", window.ask_save_job, "Ctrl+Shift+S", can=have, in_fields=True))
    add(
        "send",
        Command(
            "Save all layers in one SVG…",
            lambda: window.ask_send(False),
            "Ctrl+E",
            "download",
            "For the cutter",
            have,
            True,
        ),
    )
    add(
        "send-each",
        Command("Save one SVG a layer…", lambda: window.ask_send(True), "Ctrl+Shift+E", can=have, in_fields=True),
    )
    add(
        "print",
        Command(
            "Save PNG to print and line to cut…",
            window.ask_save_print,
            help="The prepared picture at its finished size",
            can=have,
        ),
    )
    add("undo", Command("Undo", window.model.undo, "Ctrl+Z", "undo-2", can=lambda: window.model.undo_name is not None))
    add(
        "redo",
        Command(
            "Redo",
            window.model.redo,
            "Ctrl+Shift+Z or Ctrl+Y",
            "redo-2",
            can=lambda: window.model.redo_name is not None,
        ),
    )
    add("find", Command("Find a command", window.finder.start, "Ctrl+K", "search", in_fields=True))
    for place, step in enumerate(window.steps):
        add(
            f"step-{step.key}",
            Command(f"Go to {step.name}", lambda place=place: window.show_step(place), str(place + 1), can=have),
        )
    for words, button in window.prepare_step().adders.items():
        add(
            f"prepare-{words.lower().replace(' ', '-')}",
            Command(
                f"Prepare: {words.lower()}",
                lambda words=words: window.add_change(words),
                can=have,
                help=button.toolTip(),
            ),
        )
    for view in VIEWS:
        add(
            f"view-{view.lower()}",
            Command(f"Show {view.lower()}", lambda view=view: window.show_view(view), can=have),
        )
    add(
        "compare",
        Command(
            "Before and after",
            window.toggle_compare,
            "D",
            help="A divider to drag; Shift and arrows move it",
            can=have,
        ),
    )
    add("fit", Command("Fit the picture in view", window.canvas.fit, "F", "maximize"))
    add("zoom-in", Command("Zoom in", lambda: window.canvas.zoom_by(1.25), "+ or =", "plus"))
    add("zoom-out", Command("Zoom out", lambda: window.canvas.zoom_by(0.8), "-", "minus"))
    add("lift-up", Command("Lift the layers", lambda: window.lift.setValue(window.lift.value() + 10), "L", can=have))
    add(
        "lift-down",
        Command("Lower the layers", lambda: window.lift.setValue(window.lift.value() - 10), "Shift+L", can=have),
    )
    add("fewer", Command("One ink fewer", lambda: window.step_inks(-1), "[", can=have))
    add("more", Command("One ink more", lambda: window.step_inks(1), "]", can=have))
    add("keep-ground", Command("Keep or clear the ground", lambda: window.separate_step().toggle_ground(), can=have))
    separate = window.separate_step()
    kind = lambda *kinds: window.model.result is not None and window.model.result.tones.kind in kinds  # noqa: E731
    for identifier, words, press, kinds in (
        ("pick", "Pick a detail", separate.picks.pick.click, ("flat", "photo")),
        ("ink-colour", "Pick the ink that counts", separate.marks.pick.click, ("ink", "lineart")),
        ("silhouette", "Fill the outline, or not", separate.marks.silhouette.click, ("ink",)),
        ("close-leaks", "Close all leaks", separate.leaks.close_all, ("lineart",)),
        ("colour-areas", "Colour areas by clicking", separate.colours.brush.click, ("lineart",)),
    ):
        add(
            f"separate-{identifier}",
            Command(
                f"Separate: {words[0].lower()}{words[1:]}",
                lambda press=press: window.at_separate(press),
                can=lambda kinds=kinds: kind(*kinds),
            ),
        )
    trace = window.trace_step()
    add(
        "worst",
        Command("Go to the worst place of the curves", lambda: window.at_trace(trace.show_worst), "W", can=have),
    )
    add("heat", Command("Trace: show or hide deviation", lambda: window.at_trace(trace.heat.click), "H", can=have))
    for name in PRESETS:
        add(
            f"trace-{name.lower()}",
            Command(f"Trace for {name.lower()}", lambda name=name: trace.take_preset(name), can=have),
        )
    for key, button in trace.tools.items():
        add(
            f"trace-{key}",
            Command(
                f"Trace: {button.text().lower()} by hand",
                lambda button=button: window.at_trace(button.click),
                can=have,
                help=button.toolTip(),
            ),
        )
    add("ground", Command("Next canvas ground", window.canvas.scene.next_ground, help="The colour behind the work"))
    add("unit", Command("Change the unit: mm, cm, in", window.next_unit, "U"))
    add("theme", Command("Light or dark", window.toggle_theme, icon="moon"))
    add("stop", Command("Stop the work, or let go of the layer", window.stop, "Esc"))
    add("keys", Command("Show all keys", window.show_keys, "F1", "circle-question-mark", in_fields=True))
