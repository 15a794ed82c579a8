"""The demo job: the allotment society's summer fair badge."""

from importlib.resources import files

from sketchloom.core.job import Job, Recipe

__all__ = ["demo_job"]


def demo_job() -> Job:
    """Give the demo job: the fair badge, 180 mm wide."""
    picture = (files("sketchloom") / "demo" / "fair-badge.png").read_bytes()
    return Job("Fair badge", "fair-badge.png", picture, Recipe().with_("finish", width=180.0))
