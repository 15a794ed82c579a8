"""Recipes that earlier versions wrote, brought up to what this one reads."""

from typing import Any

__all__ = ["brought_up"]


def brought_up(value: Any) -> Any:
    """Bring the decoded JSON of a job or a recipe up to the version of today; what is no recipe stays as it is."""
    for version, step in ((1, _from_1), (2, _from_2)):
        if isinstance(value, dict) and value.get("version") == version and isinstance(value.get("recipe"), dict):
            value = {**value, "version": version + 1, "recipe": step(value["recipe"])}
    return value


def _from_1(recipe: dict[str, Any]) -> dict[str, Any]:
    """Version 1 knew inks by their colours, and layers by the colours shown."""
    separate = dict(recipe.get("separate", {}))
    for name in ("grounded", "locked"):
        separate[name] = [_key(colour) for colour in separate.get(name, ())]
    separate["joined"] = [[_key(goes), _key(stays)] for goes, stays in separate.get("joined", ())]
    for name in ("names", "shown"):
        separate[name] = [[_key(colour), given] for colour, given in separate.get(name, ())]
    separate["picks"] = [
        {**pick, "to": _key(pick["to"])} if pick.get("to") else pick for pick in separate.get("picks", ())
    ]
    layers = dict(recipe.get("layers", {}))
    own = {_key(colour): key for key, colour in separate["shown"]}
    layers["order"] = [own.get(code, code) for code in layers.get("order", ())]
    rules: dict[str, dict[str, Any]] = {}
    for key in layers.pop("strokes", ()):
        rules.setdefault(key, {"ink": key})["centre_line"] = True
    for key, edge in layers.pop("edges", ()):
        rules.setdefault(key, {"ink": key})["edge"] = edge
    return {**recipe, "separate": separate, "layers": {**layers, "rules": list(rules.values())}}


def _from_2(recipe: dict[str, Any]) -> dict[str, Any]:
    """Version 2 called the closing of a leak a bridge, as the bridges of a stencil are called now."""
    separate = dict(recipe.get("separate", {}))
    if "bridges" in separate:
        separate["closings"] = separate.pop("bridges")
    return {**recipe, "separate": separate}


def _key(colour: Any) -> str:
    red, green, blue = colour
    return f"#{red:02x}{green:02x}{blue:02x}"
