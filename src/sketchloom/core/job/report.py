"""The figures of a finished result, as one JSON value."""

from typing import Any

import numpy as np

from sketchloom.core.job.result import Result
from sketchloom.core.layers import Layer, OrderCost, usual_width
from sketchloom.core.picture import Point, source_points
from sketchloom.core.regions import InkStep
from sketchloom.core.send import names_of
from sketchloom.core.tidy import Bridge

__all__ = ["deviation_mm", "report_of", "windows_length", "worst_place"]


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


def windows_length(result: Result) -> float:
    """Length of cut that is saved where hidden windows are not cut, mm."""
    lengths = result.finished.curves.lengths()
    return float(sum(lengths[window.arcs].sum() for window in result.planned.windows))


def _palette(result: Result) -> list[dict[str, Any]]:
    """The inks that have faces, bottom first; with figures where one has a layer of its own."""
    out = []
    for key in dict.fromkeys(key for inks in result.planned.grouping.inks for key in inks):
        ink, layer = result.palette[key], result.stack.layer(key)
        figures = {} if layer is None else _figures(layer)
        out.append({"name": ink.name if layer is None else layer.name, "key": key, "hex": ink.hex, **figures})
    return out


def _figures(layer: Layer) -> dict[str, Any]:
    return {
        "pieces": layer.pieces,
        "by_hand": layer.loose,
        "nodes": layer.path.nodes,
        "area_mm2": round(layer.area, 3),
        "cut_length_mm": round(layer.cut_length, 3),
    }


def _layers(result: Result) -> list[dict[str, Any]]:
    """Layers that are sent, bottom first."""
    names = names_of(result.stack.cuts.cuts)
    return [
        {
            "id": names[layer.key],
            "key": layer.key,
            "name": layer.name,
            "colour": layer.ink.hex,
            "inks": list(layer.inks),
            "kind": layer.kind,
            "stock": layer.stock.name if layer.stock else None,
            "pieces": layer.pieces,
            "loose": layer.loose,
            "nodes": layer.path.nodes,
            "area_mm2": round(layer.area, 3),
            "cut_length_mm": round(layer.cut_length, 3),
            "narrowest_mm": result.narrowest.get(layer.key),
        }
        for layer in result.stack.sent
    ]


def _orders(result: Result) -> dict[str, Any] | None:
    if not result.has("order"):
        return None
    orders, weights = result.orders, result.recipe.layers.weights
    return {
        "present": _order(orders.present),
        "best": _order(orders.best) if orders.best else None,
        "exact": orders.exact,
        "weights": {"loose": weights.loose, "cut_m": weights.cut, "area_dm2": weights.area},
    }


def _order(order: OrderCost) -> dict[str, Any]:
    return {
        "inks": list(order.keys),
        "cost": round(order.cost, 4) if np.isfinite(order.cost) else None,
        "loose": order.loose,
        "cut_length_mm": round(order.cut, 3),
        "area_mm2": round(order.area, 3),
        "thickest": order.thickest,
    }


def _slip(result: Result) -> dict[str, Any] | None:
    slip = result.slip
    if slip is None:
        return None
    return {"gaps": slip.many, "area_mm2": round(slip.area, 4), "overlap_mm": slip.overlap}


def report_of(result: Result) -> dict[str, Any]:
    """Give the report of a run: sizes in mm, areas in mm2, times in s."""
    largest, mean = deviation_mm(result)
    layers = result.stack.sent
    return {
        "size_mm": [round(side, 3) for side in result.stack.size],
        "design_mm": [round(side, 3) for side in result.finished.size],
        "size_from": result.scale.size_from,
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
        "palette": _palette(result),
        "layers": _layers(result),
        "hidden_layers": [layer.name for layer in result.stack.layers if layer.hidden],
        "order": _orders(result),
        "slip": _slip(result),
        "hidden_windows": len(result.planned.windows),
        "hidden_windows_cut_mm": round(windows_length(result), 3),
        "bulk": result.planned.bulk,
        "centre_lines": [
            {
                "name": layer.name,
                "key": layer.ink.key,
                "hex": layer.ink.hex,
                "lines": len(layer.path.contours),
                "nodes": layer.path.nodes,
                "length_mm": round(layer.cut_length, 3),
                "width_mm": round(usual_width(layer), 3),
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
            "used": round(result.cleaned.least, 2),
            "of_the_picture": round(result.cleaned.floor, 2),
        },
        "unplaced": {
            "prepare": list(result.prepared.unplaced),
            "separate": list(result.tones.unplaced),
            "tidy": list(result.tidied.unplaced),
            "trace": list(result.unplaced),
            "joins": result.centre_lines.lost_joins,
            "layers": list(result.planned.unplaced),
            "mends": list(result.lost_mends),
        },
        "timings_s": {name: round(seconds, 4) for name, seconds in result.timings.items()},
    }
