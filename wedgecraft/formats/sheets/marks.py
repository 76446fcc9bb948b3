"""A sheet as plain marks on paper, mm, Y up: what every way of printing it draws."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from wedgecraft.core.records.sheet import (
    Item,
    Label,
    Layer,
    Linear,
    Ordinate,
    Round,
    Sheet,
    SheetView,
    Stroke,
)

#: Line widths on paper, mm (ISO 128: thick 0.5, thin 0.25), and dashes.
PENS: dict[Layer, tuple[float, tuple[float, ...]]] = {
    "OUTLINE": (0.5, ()),
    "HIDDEN": (0.25, (2.0, 1.0)),
    "CENTRE": (0.18, (4.0, 1.0, 0.6, 1.0)),
    "PART": (0.25, (5.0, 1.0, 0.6, 1.0, 0.6, 1.0)),
    "DIMENSIONS": (0.18, ()),
    "TEXT": (0.25, ()),
    "MARKING": (0.25, ()),
    "FRAME": (0.35, ()),
    "HATCH": (0.13, ()),
    "PRESSURE": (0.5, ()),
}
_ARROW_MM = 2.5
_ARROW_HALF_MM = 0.45
_TEXT_MM = 2.5
_ABOVE_MM = 0.8

Mark = Stroke | Round | Label


def marks(sheet: Sheet) -> Iterator[Mark]:
    """All of a sheet; dimensions come as lines, arrows and text."""
    yield from plain(sheet.items)
    for view in sheet.views:
        yield from plain(placed(view, sheet.scale))
        yield Label(text=view.name, x=view.at_mm[0], y=_over(view, sheet.scale), high=3.0)


def _over(view: SheetView, scale: float) -> float:
    """Just over the outline of a view."""
    highest = max(
        (
            y
            for item in view.items
            if item.kind == "stroke" and item.layer == "OUTLINE"
            for _, y in item.points
        ),
        default=0.0,
    )
    return view.at_mm[1] + highest * scale + 3.0


def placed(view: SheetView, scale: float) -> list[Item]:
    """A view's items on the paper."""
    x0, y0 = view.at_mm

    def at(point: tuple[float, float]) -> tuple[float, float]:
        return x0 + point[0] * scale, y0 + point[1] * scale

    found: list[Item] = []
    for item in view.items:
        if item.kind == "stroke":
            found.append(item.model_copy(update={"points": [at(p) for p in item.points]}))
        elif item.kind == "round":
            x, y = at((item.x, item.y))
            found.append(item.model_copy(update={"x": x, "y": y, "radius": item.radius * scale}))
        elif item.kind == "label":
            x, y = at((item.x, item.y))
            found.append(item.model_copy(update={"x": x, "y": y}))
        elif item.kind == "ordinate":
            moved = {key: at(getattr(item, key)) for key in ("feature", "bend", "end")}
            found.append(item.model_copy(update=moved))
        else:
            origin = x0 if item.axis == "y" else y0
            moved = {"first": at(item.first), "second": at(item.second)}
            line = {"line": origin + item.line * scale}
            found.append(item.model_copy(update={**moved, **line}))
    return found


def plain(items: Iterable[Item]) -> Iterator[Mark]:
    for item in items:
        if isinstance(item, Ordinate):
            yield from _ordinate(item)
        elif isinstance(item, Linear):
            yield from _linear(item)
        else:
            yield item


def _ordinate(item: Ordinate) -> Iterator[Mark]:
    upright = item.axis == "x"
    (fx, fy), (bx, by), (ex, ey) = item.feature, item.bend, item.end
    knee = (ex, by + (ey - by) * 0.6) if upright else (bx + (ex - bx) * 0.6, ey)
    yield Stroke(layer=item.layer, points=[(fx, fy), (bx, by), knee, (ex, ey)])
    yield Label(
        layer="DIMENSIONS",
        text=item.text,
        x=ex + (_TEXT_MM / 2 - 0.2 if upright else -_ABOVE_MM),
        y=ey - (_ABOVE_MM if upright else _TEXT_MM / 2 - 0.2),
        high=_TEXT_MM,
        anchor="end",
        turn_deg=90 if upright else 0,
        figures=True,
    )


def _linear(item: Linear) -> Iterator[Mark]:
    upright = item.axis == "y"
    ends = []
    for x, y in (item.first, item.second):
        end = (item.line, y) if upright else (x, item.line)
        beyond = 1.0 if item.line > (x if upright else y) else -1.0
        past = (item.line + beyond, y) if upright else (x, item.line + beyond)
        yield Stroke(layer=item.layer, points=[(x, y), past])
        ends.append(end)
    yield Stroke(layer=item.layer, points=ends)
    (ax, ay), (bx, by) = ends
    for (x, y), (ox, oy) in ((ends[0], ends[1]), (ends[1], ends[0])):
        size = max(abs(ox - x) + abs(oy - y), 1e-9)
        ux, uy = (ox - x) / size, (oy - y) / size
        back, half = (_ARROW_MM * ux, _ARROW_MM * uy), (_ARROW_HALF_MM * uy, _ARROW_HALF_MM * ux)
        barbs = [
            (x + back[0] - half[0], y + back[1] + half[1]),
            (x + back[0] + half[0], y + back[1] - half[1]),
        ]
        yield Stroke(layer=item.layer, points=[(x, y), *barbs], closed=True, filled=True)
    yield Label(
        layer="DIMENSIONS",
        text=item.text,
        x=(ax + bx) / 2 - (_ABOVE_MM if upright else 0),
        y=(ay + by) / 2 + (0 if upright else _ABOVE_MM),
        high=_TEXT_MM,
        anchor="middle",
        turn_deg=90 if upright else 0,
        figures=True,
    )
