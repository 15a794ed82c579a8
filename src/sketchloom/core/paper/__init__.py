"""What is for people: pictures of the stack, and the job's sheet of paper."""

from sketchloom.core.paper.assembly import assembly_file, assembly_of
from sketchloom.core.paper.facts import JobFacts
from sketchloom.core.paper.job_sheet import job_sheet_pdf
from sketchloom.core.paper.placing import PAPERS, Paper, as_stock
from sketchloom.core.paper.strip import strip_of, strip_pdf

__all__ = [
    "PAPERS",
    "JobFacts",
    "Paper",
    "as_stock",
    "assembly_file",
    "assembly_of",
    "job_sheet_pdf",
    "strip_of",
    "strip_pdf",
]
