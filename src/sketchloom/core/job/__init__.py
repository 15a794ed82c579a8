"""Recipes, the pipeline that runs them, job files, and reports."""

from sketchloom.core.job.history import History
from sketchloom.core.job.jobfile import Job, decode_recipe, encode_recipe, read_job, read_recipe, write_job
from sketchloom.core.job.pipeline import Pipeline, Result
from sketchloom.core.job.printcut import PrintAndCut, print_and_cut
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.report import report_of

__all__ = [
    "History",
    "Job",
    "Pipeline",
    "PrintAndCut",
    "Recipe",
    "Result",
    "decode_recipe",
    "encode_recipe",
    "print_and_cut",
    "read_job",
    "read_recipe",
    "report_of",
    "write_job",
]
