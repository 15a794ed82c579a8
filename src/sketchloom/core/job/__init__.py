"""Recipes, the pipeline that runs them, job files, and reports."""

from sketchloom.core.job.history import History
from sketchloom.core.job.jobfile import Job, decode_recipe, encode_recipe, read_job, read_recipe, write_job
from sketchloom.core.job.pipeline import Pipeline, Result, colour_at, ink_at, ink_keys
from sketchloom.core.job.printcut import PrintAndCut, print_and_cut
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.report import report_of, worst_place
from sketchloom.core.job.together import are_layers, job_of_layers

__all__ = [
    "History",
    "Job",
    "Pipeline",
    "PrintAndCut",
    "Recipe",
    "Result",
    "are_layers",
    "colour_at",
    "decode_recipe",
    "encode_recipe",
    "ink_at",
    "ink_keys",
    "job_of_layers",
    "print_and_cut",
    "read_job",
    "read_recipe",
    "report_of",
    "worst_place",
    "write_job",
]
