"""Recipes, the pipeline that runs them, job files, and reports."""

from sketchloom.core.job.batch import (
    ENDINGS,
    BatchSettings,
    Row,
    Task,
    csv_of_rows,
    do_task,
    is_done,
    rows_kept,
    tasks_of,
)
from sketchloom.core.job.cluster import rows_on_cluster
from sketchloom.core.job.figures import COMPARED, QUICK, JobFigures, figures_of_job
from sketchloom.core.job.fixes import all_sure, set_aside, sure, to_source, with_fix, with_fixes
from sketchloom.core.job.glance import Glance, glance
from sketchloom.core.job.history import Change, History
from sketchloom.core.job.jobfile import (
    Job,
    decode_recipe,
    encode_recipe,
    job_bytes,
    preview_of,
    read_job,
    read_recipe,
    write_job,
)
from sketchloom.core.job.keeping import DAYS, Kept, LeftBehind, clear_old, left_behind
from sketchloom.core.job.logged import entries_of
from sketchloom.core.job.lookup import (
    colour_at,
    darkest_at,
    detail_at,
    gap_mm,
    heat_levels,
    ink_at,
    largest_ink,
    layer_key_at,
    longer_side_mm,
    px_per_mm_of,
)
from sketchloom.core.job.papers import job_facts, papers_of, sent_test_cut
from sketchloom.core.job.pipeline import Pipeline, Progress, silent
from sketchloom.core.job.printcut import PrintAndCut, PrintSettings, print_and_cut
from sketchloom.core.job.processes import rows_of_batch, usual_jobs
from sketchloom.core.job.recipe import Recipe, is_work_by_hand
from sketchloom.core.job.report import deviation_mm, report_of, windows_length, worst_place
from sketchloom.core.job.result import Failure, Result
from sketchloom.core.job.sending import (
    FORMATS,
    Papers,
    SendSettings,
    Sent,
    names_of_test_cuts,
    send_report,
    sent_files,
    sent_names,
    stocks_of,
    zipped,
)
from sketchloom.core.job.sheet_report import sheet_names, sheet_report
from sketchloom.core.job.source import inspect_source, measure_opened
from sketchloom.core.job.stages import STAGES, STEP_OF_STAGE, Checked
from sketchloom.core.job.stages.sheets import design_of
from sketchloom.core.job.together import Laid, are_layers, job_of_layers
from sketchloom.core.job.versions import MOST_VERSIONS, Version
from sketchloom.core.job.work import guest_of, work_of

__all__ = [
    "COMPARED",
    "DAYS",
    "ENDINGS",
    "FORMATS",
    "MOST_VERSIONS",
    "QUICK",
    "STAGES",
    "STEP_OF_STAGE",
    "BatchSettings",
    "Change",
    "Checked",
    "Failure",
    "Glance",
    "History",
    "Job",
    "JobFigures",
    "Kept",
    "Laid",
    "LeftBehind",
    "Papers",
    "Pipeline",
    "PrintAndCut",
    "PrintSettings",
    "Progress",
    "Recipe",
    "Result",
    "Row",
    "SendSettings",
    "Sent",
    "Task",
    "Version",
    "all_sure",
    "are_layers",
    "clear_old",
    "colour_at",
    "csv_of_rows",
    "darkest_at",
    "decode_recipe",
    "design_of",
    "detail_at",
    "deviation_mm",
    "do_task",
    "encode_recipe",
    "entries_of",
    "figures_of_job",
    "gap_mm",
    "glance",
    "guest_of",
    "heat_levels",
    "ink_at",
    "inspect_source",
    "is_done",
    "is_work_by_hand",
    "job_bytes",
    "job_facts",
    "job_of_layers",
    "largest_ink",
    "layer_key_at",
    "left_behind",
    "longer_side_mm",
    "measure_opened",
    "names_of_test_cuts",
    "papers_of",
    "preview_of",
    "print_and_cut",
    "px_per_mm_of",
    "read_job",
    "read_recipe",
    "report_of",
    "rows_kept",
    "rows_of_batch",
    "rows_on_cluster",
    "send_report",
    "sent_files",
    "sent_names",
    "sent_test_cut",
    "set_aside",
    "sheet_names",
    "sheet_report",
    "silent",
    "stocks_of",
    "sure",
    "tasks_of",
    "to_source",
    "usual_jobs",
    "windows_length",
    "with_fix",
    "with_fixes",
    "work_of",
    "worst_place",
    "write_job",
    "zipped",
]
