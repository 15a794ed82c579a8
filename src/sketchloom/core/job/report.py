"""The figures of a finished result, as one JSON value."""

from typing import Any

import numpy as np

from sketchloom.core.job.result import Result
from sketchloom.core.picture import Point, source_points
from sketchloom.core.regions import InkStep
from sketchloom.core.tidy import Bridge

__all__ = ["deviation_mm", "report_of", "worst_place"]


def deviation_mm(result: Result) -> tuple[float, float]:
    """Largest and mean distance between the edges in the picture and the curves, mm; the frame left out."""
    planar, curves = result.planar, result.finished.curves
    inner = (planar.left > 0) & (planar.right > 0)
    if not inner.any():
        return 0.0, 0.0
    largest, mean, offset = curves.deviation.largest, curves.deviation.mean, curves.deviation.offset
    return float(largest[inner].max()), float(np.average(mean[inner], weights=np.diff(offset)[inner]))


def worst_place(result: Result) -> Point | None:
    """Where an edge lies farthest from its curve, in source coordinates; the frame left out."""
    planar, deviation = result.planar, result.curves.deviation
    inner = np.repeat((planar.left > 0) & (planar.right > 0), np.diff(deviation.offset))
    if not inner.any():
        return None
    worst = np.argmax(np.where(inner, deviation.away, -1.0))
    return source_points(result.picture, deviation.place[[worst]])[0]


def _step(step: InkStep | None) -> dict[str, Any] | None:
    if step is None:
        return None
    return {"ink": step.ink.key, "other": step.other.key, "share": round(step.share, 6), "box_px": step.box}


def _reading(result: Result) -> dict[str, Any] | None:
    reading = result.tones.reading
    if reading is None:
        return None
    return {
        "threshold": round(reading.threshold, 4),
        "local": reading.local,
        "evenness": round(reading.evenness, 3),
        "sure": round(reading.sure, 4),
    }


def _tidy(result: Result) -> dict[str, int]:
    tidied, work = result.tidied, result.recipe.tidy.work
    taken = [one.kind for one in tidied.cleaned.taken]
    return {
        "specks": taken.count("speck"),
        "hairs": taken.count("hair"),
        "necks": tidied.cleaned.necks,
        "holes_filled": taken.count("hole"),
        "bridges": tidied.bridges + sum(one.on and isinstance(one, Bridge) for one in work),
        "islands": len(tidied.islands),
        "unplaced": len(tidied.unplaced),
    }


def report_of(result: Result) -> dict[str, Any]:
    """Give the report of a run: sizes in mm, areas in mm2, times in s."""
    largest, mean = deviation_mm(result)
    layers = result.stack.layers
    return {
        "size_mm": [round(side, 3) for side in result.stack.size],
        "px_per_mm": round(result.finished.px_per_mm, 4),
        "worked_px": [result.picture.width, result.picture.height],
        "enlarged": round(result.worn.factor, 2),
        "kind": result.kind.kind if result.kind else None,
        "mode": result.road.mode,
        "why": result.road.why,
        "ink_drawing": _reading(result),
        "leaks": len(result.tones.leaks),
        "shades": [
            {"key": group.key, "inks": list(group.keys), "gradient": group.gradient} for group in result.tones.shades
        ],
        "palette": [
            {
                "name": layer.name,
                "key": layer.ink.key,
                "hex": layer.ink.hex,
                "pieces": layer.pieces,
                "by_hand": layer.by_hand,
                "nodes": layer.path.nodes,
                "area_mm2": round(layer.area, 3),
                "cut_length_mm": round(layer.cut_length, 3),
            }
            for layer in layers
        ],
        "centre_lines": [
            {
                "name": layer.name,
                "key": layer.ink.key,
                "hex": layer.ink.hex,
                "lines": len(layer.path.contours),
                "nodes": layer.path.nodes,
                "length_mm": round(layer.length, 3),
                "width_mm": round(layer.width, 3),
            }
            for layer in result.stack.strokes
        ],
        "double_edges": [{"ink": edge.ink, "width_mm": round(edge.width, 3)} for edge in result.double],
        "one_ink_fewer": _step(result.choices[0]),
        "one_ink_more": _step(result.choices[1]),
        "pieces": sum(layer.pieces for layer in layers),
        "nodes": sum(layer.path.nodes for layer in layers),
        "deviation_mm": {"largest": round(largest, 4), "mean": round(mean, 4)},
        "tidy": _tidy(result),
        "least_piece_px": {
            "used": round(result.tidied.cleaned.least, 2),
            "of_the_picture": round(result.tidied.cleaned.floor, 2),
        },
        "unplaced": {
            "prepare": list(result.prepared.unplaced),
            "separate": list(result.tones.unplaced),
            "tidy": list(result.tidied.unplaced),
            "trace": list(result.unplaced),
            "joins": result.centre_lines.lost_joins,
        },
        "timings_s": {name: round(seconds, 4) for name, seconds in result.timings.items()},
    }
