"""What a picture is good for, before any work."""

from sketchloom.core.survey.source import LIMITS, SourceMeasures, SourceReport, measure_source, report_at

__all__ = ["LIMITS", "SourceMeasures", "SourceReport", "measure_source", "report_at"]
