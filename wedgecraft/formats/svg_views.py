"""An SVG document written out: what is used stands where it is used, inner views and percentages in
the units of the drawing.

Rules: SVG 2 (W3C), chapters on document structure and coordinate systems. What a view clips is not
clipped here.
"""

from __future__ import annotations

import copy
import re
from typing import Any

from wedgecraft.formats.errors import FileRefused
from wedgecraft.formats.outlines import MOST_ENTITIES

_PIXELS = {
    "": 1.0,
    "px": 1.0,
    "in": 96.0,
    "mm": 96 / 25.4,
    "cm": 96 / 2.54,
    "pt": 96 / 72,
    "pc": 16.0,
    "q": 96 / 101.6,
}
_LENGTH = re.compile(r"^\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*([A-Za-z%]*)\s*$")
#: Which of the two sizes of the view a percentage is of; "r" is of its diagonal over the root of
#: two.
_PERCENT = {
    "x": 0, "width": 0, "cx": 0, "rx": 0, "x1": 0, "x2": 0, "y": 1, "height": 1, "cy": 1, "ry": 1,
    "y1": 1, "y2": 1, "r": 2,
}  # fmt: skip
_SHAPES = {"rect", "circle", "ellipse", "line"}
_SIDES = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
View = tuple[float, float]


def tag_of(element: Any) -> str:
    return element.tag.rsplit("}", 1)[-1] if isinstance(element.tag, str) else ""


def view_box(element: Any) -> tuple[float, float, float, float] | None:
    """Corner, width and height of a view box, where there is a sound one."""
    try:
        x, y, width, height = (
            float(part) for part in re.split(r"[\s,]+", element.get("viewBox", "").strip())
        )
    except ValueError:
        return None
    return (x, y, width, height) if width > 0 and height > 0 else None


def fitted(
    element: Any, box: View, width: float, height: float
) -> tuple[float, float, float, float]:
    """How a box is drawn in a view so wide and high: scale along x and y, and where its corner
    comes to lie.
    """
    found = re.match(
        r"^\s*(?:defer\s+)?(none|x(Min|Mid|Max)Y(Min|Mid|Max))(?:\s+(meet|slice))?\s*$",
        element.get("preserveAspectRatio", ""),
    )
    scales = width / box[0], height / box[1]
    if found and found[1] == "none":
        return (*scales, 0.0, 0.0)
    scale = max(scales) if found and found[4] == "slice" else min(scales)
    along, down = (_SIDES[found[2]], _SIDES[found[3]]) if found else (0.5, 0.5)
    return scale, scale, along * (width - scale * box[0]), down * (height - scale * box[1])


def write_out(root: Any) -> None:
    """Do so, in place. Raises FileRefused for uses in a circle, and for more of them than a drawing
    may have elements.
    """
    box = view_box(root)
    view = (
        box[2:]
        if box
        else (_length(root.get("width"), 0.0) or 100.0, _length(root.get("height"), 0.0) or 100.0)
    )
    known = {element.get("id"): element for element in root.iter() if element.get("id")}
    _Writer(known, root.tag).inside(root, view, ())


def _length(text: str | None, of: float) -> float | None:
    found = _LENGTH.match(text or "")
    if not found:
        return None
    unit = found[2].lower()
    return (
        float(found[1]) * (of / 100 if unit == "%" else _PIXELS[unit])
        if unit == "%" or unit in _PIXELS
        else None
    )


class _Writer:
    def __init__(self, known: dict[str, Any], root_tag: str) -> None:
        self._known, self._left = known, MOST_ENTITIES
        self._group = root_tag.removesuffix("svg") + "g"

    def inside(self, parent: Any, view: View, used: tuple[str, ...]) -> None:
        for child in list(parent):
            self._left -= 1
            if self._left < 0:
                raise FileRefused(
                    f"the drawing shows more than {MOST_ENTITIES:,} elements",
                    "export the outline's layer only",
                )
            tag = tag_of(child)
            if tag in ("symbol", "clipPath", "mask", "marker", "pattern"):
                parent.remove(child)
            elif tag == "defs":
                for item in [item for item in child if tag_of(item) != "style"]:
                    child.remove(item)
            elif tag == "use":
                self._use(child, view, used)
            elif tag == "svg":
                inner = self._view(
                    child,
                    view,
                    child.get("width"),
                    child.get("height"),
                    child.get("x"),
                    child.get("y"),
                )
                self.inside(child, inner, used)
            else:
                if tag in _SHAPES:
                    self._in_units(child, view)
                self.inside(child, view, used)

    def _use(self, use: Any, view: View, used: tuple[str, ...]) -> None:
        """The use becomes a group that holds a copy."""
        name = next(
            (value for key, value in use.attrib.items() if key.rsplit("}", 1)[-1] == "href"), ""
        ).lstrip("#")
        if name in used:
            raise FileRefused(f"“{name[:60]}” uses itself", "unlink the clones and save again")
        for child in list(use):
            use.remove(child)
        given = {key: use.attrib.pop(key, None) for key in ("x", "y", "width", "height")}
        for key in [key for key in use.attrib if key.rsplit("}", 1)[-1] == "href"]:
            del use.attrib[key]
        use.tag = self._group
        target = self._known.get(name)
        if target is None:
            return
        x, y = _length(given["x"], view[0]) or 0.0, _length(given["y"], view[1]) or 0.0
        if x or y:
            use.set("transform", f"{use.get('transform', '')} translate({x!r} {y!r})".strip())
        self._count(target)
        made = copy.deepcopy(target)
        made.attrib.pop("id", None)
        use.append(made)
        if tag_of(target) in ("symbol", "svg"):
            width, height = (
                given["width"] or target.get("width"),
                given["height"] or target.get("height"),
            )
            view = self._view(made, view, width, height, target.get("x"), target.get("y"))
            self.inside(made, view, (*used, name))
        else:
            self.inside(use, view, (*used, name))

    def _count(self, target: Any) -> None:
        """Copies are counted before they are made: ten of ten of ten would fill the memory."""
        self._left -= sum(1 for _ in target.iter())
        if self._left < 0:
            raise FileRefused(
                f"the drawing shows more than {MOST_ENTITIES:,} elements",
                "unlink the clones, or export less of it",
            )

    def _view(
        self,
        element: Any,
        view: View,
        width: str | None,
        height: str | None,
        x: str | None,
        y: str | None,
    ) -> View:
        """An inner view becomes a group; what is inside is measured in the view returned."""
        w, h = _length(width or "100%", view[0]), _length(height or "100%", view[1])
        w, h = (view[0] if w is None else w), (view[1] if h is None else h)
        left, top = _length(x, view[0]) or 0.0, _length(y, view[1]) or 0.0
        box = view_box(element)
        placed = f"translate({left!r} {top!r})"
        inner = (w, h)
        if box is not None and w > 0 and h > 0:
            inner = box[2:]
            sx, sy, dx, dy = fitted(element, inner, w, h)
            placed = (
                f"translate({left + dx!r} {top + dy!r}) scale({sx!r} {sy!r}) translate({-box[0]!r}"
                f" {-box[1]!r})"
            )
        for key in ("width", "height", "x", "y", "viewBox", "preserveAspectRatio"):
            element.attrib.pop(key, None)
        element.tag = self._group
        element.set("transform", f"{element.get('transform', '')} {placed}".strip())
        return inner

    def _in_units(self, shape: Any, view: View) -> None:
        sizes = (*view, ((view[0] ** 2 + view[1] ** 2) / 2) ** 0.5)
        for key, which in _PERCENT.items():
            if shape.get(key, "").strip().endswith("%"):
                shape.set(key, repr(_length(shape.get(key), sizes[which]) or 0.0))
