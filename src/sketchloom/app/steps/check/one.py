"""The card of the finding in hand: its place, what will happen, and what mends it."""

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from sketchloom.app.fields import Card, Field, faded
from sketchloom.app.steps.check.desk import CheckDesk
from sketchloom.app.steps.check.place import place_picture
from sketchloom.app.steps.check.words import ROLE, against, title_of
from sketchloom.app.steps.list_row import refilled
from sketchloom.app.theme import theme
from sketchloom.core.inspect import Finding
from sketchloom.core.job import Checked
from sketchloom.core.measures import in_words

__all__ = ["OneCard"]

_WIDTH, _HEIGHT = 232, 108


class OneCard(Card):
    """One finding."""

    def __init__(self, step: CheckDesk) -> None:
        super().__init__("This place")
        self._step = step
        self._shown: object = None
        self.picture = QLabel()
        self.picture.setFixedSize(_WIDTH, _HEIGHT)
        self.body.addWidget(self.picture)
        self.measure, self.sentence = QLabel(), QLabel()
        for label in (self.measure, self.sentence):
            label.setWordWrap(True)
            self.body.addWidget(label)
        self.fixes = QVBoxLayout()
        self.fixes.setSpacing(6)
        self.body.addLayout(self.fixes)
        self.trying = faded("Trying what mends it…")
        self.body.addWidget(self.trying)
        self.kind = QPushButton()
        self.kind.clicked.connect(step.mend_kind)
        self.body.addWidget(self.kind)
        line = QHBoxLayout()
        self.word = Field()
        self.word.setPlaceholderText("a word why")
        self.word.setMaxLength(200)
        self.word.setAccessibleName("Why it is left so")
        self.leave = QPushButton("Leave it so")
        self.leave.setToolTip("It stays aside until its place changes (Delete)")
        self.leave.clicked.connect(step.leave_one)
        line.addWidget(self.word, 1)
        line.addWidget(self.leave)
        self.body.addLayout(line)

    def show_finding(self, checked: Checked | None, finding: Finding | None, sure: bool) -> None:
        """Show a finding, or nothing."""
        self.setVisible(finding is not None and checked is not None)
        if finding is None or checked is None:
            self._shown = None
            return
        key = (checked, finding, sure, self._step.unit(), theme.is_dark)
        if key == self._shown:
            return
        self._shown = key
        self.title.setText(title_of(finding))
        layer = checked.subject.layer(finding.layer)
        self.aside.setText(layer.name if layer is not None else "")
        self.picture.setPixmap(place_picture(checked.subject, finding, _WIDTH, _HEIGHT))
        self.picture.setAccessibleName(f"The place at {finding.at[0]:.1f}, {finding.at[1]:.1f} mm")
        severity = "Spoils the cut" if finding.severity == "spoils" else "Worth a look"
        figures = against(finding, self._step.unit())
        self.measure.setText(f"{severity}: {figures}" if figures else severity)
        self.measure.setProperty("role", ROLE[finding.severity])
        self.measure.style().unpolish(self.measure)
        self.measure.style().polish(self.measure)
        self.sentence.setText(in_words(finding.sentence, self._step.unit()))
        self.trying.setVisible(not sure and bool(finding.fixes))
        with refilled(self.fixes):
            for number, fix in enumerate(finding.fixes if sure else ()):
                button = QPushButton(in_words(fix.words, self._step.unit()))
                button.setProperty("primary", number == 0)
                button.clicked.connect(lambda _=False, number=number: self._step.mend_one(number))
                self.fixes.addWidget(button)
        alike = [one for one in checked.open if one.kind == finding.kind and any(fix.mends for fix in one.fixes)]
        self.kind.setText(f"Mend all {len(alike)} of this kind")
        self.kind.setVisible(len(alike) > 1)
