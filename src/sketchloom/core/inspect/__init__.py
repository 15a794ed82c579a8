"""Findings, before and after: what a picture is good for."""

from sketchloom.core.inspect.source import (
    LIMITS,
    SourceMeasures,
    SourceReport,
    measure_source,
    report_at,
)

__all__ = ["LIMITS", "SourceMeasures", "SourceReport", "measure_source", "report_at"]
