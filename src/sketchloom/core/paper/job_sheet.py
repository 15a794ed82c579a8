"""The job sheet: one to three pages of paper that go with a job to the cutter and to the customer."""

from sketchloom.core.paper.faces import faces_for
from sketchloom.core.paper.facts import JobFacts
from sketchloom.core.paper.placing import Paper

__all__ = ["job_sheet_pdf"]

_MOST_PAGES = 3
_PICTURE = (88.0, 62.0)
"""mm, heights of the approval picture at most: the second where it saves a page."""
_LEAST = 0.05
_FULL = (40, 24, 14)
"""How many layers, sheets and findings are listed; less where they take more than three pages."""


def job_sheet_pdf(facts: JobFacts, paper: Paper = "a4") -> bytes:
    """Write the job sheet as PDF, at most three pages: the same for the same job.

    It has the approval picture in the colours of the stock on the ground
    that the job has, layers in laying order, sheets to scale, cutter and
    presets, times, stock and cost, cautions, findings that are open, and a
    line of exactly 100 mm to check the printer by.

    Parameters
    ----------
    facts : JobFacts
    paper : {'a4', 'letter'}
    """
    from sketchloom.core.paper.flow import Looks
    from sketchloom.core.paper.story import built

    looks = Looks(*faces_for(_letters(facts)))
    share = 1.0
    while True:
        layers, sheets, findings = (max(1, round(many * share)) for many in _FULL)
        data, pages = built(facts, paper, looks, _PICTURE[0], layers, sheets, findings)
        if pages > 1:
            data, pages = min(
                (data, pages), built(facts, paper, looks, _PICTURE[1], layers, sheets, findings), key=lambda one: one[1]
            )  # the larger picture where both are as long
        if pages <= _MOST_PAGES or share < _LEAST:
            return data
        share *= 0.8


def _letters(facts: JobFacts) -> str:
    stocks = [group.name for group in facts.layout.groups] + [stock.name for stock in facts.stocks]
    presets = [word for preset in facts.presets for word in (preset.name, preset.tool, preset.note)]
    cutter = facts.cutter.name if facts.cutter is not None else ""
    names = [cut.name for cut in facts.work.every]
    said = [finding.sentence for finding in facts.open]
    return "".join([facts.name, cutter, *stocks, *presets, *names, *said, *facts.cautions, "×·–…“”²’"])
