"""Writes drawings of every version, one for each kind of thing, and says what an independent reader draws of them.

usage: drawn.py FOLDER; prints JSON: [{file, kind, version, length, low, high, texts}]
"""

import json
import math
import os
import sys

import ezdxf
from ezdxf.addons.drawing import Frontend, RenderContext
from ezdxf.addons.drawing.backend import Backend
from ezdxf.addons.drawing.config import Configuration, HatchPolicy, LinePolicy
from ezdxf.tools.fonts import FontMeasurements

FOLDER = sys.argv[1]
NEWER = ["R2000", "R2004", "R2007", "R2010", "R2013", "R2018"]
ALL = ["R12"] + NEWER


class Recorder(Backend):
    def __init__(self):
        super().__init__()
        self.length = 0.0
        self.seen = set()
        self.spots = []
        self.texts = []

    def draw_line(self, start, end, properties):
        ends = tuple(sorted([(round(p.x, 6), round(p.y, 6)) for p in (start, end)]))
        # Edges that two faces share are drawn twice.
        if ends not in self.seen:
            self.length += math.hypot(end.x - start.x, end.y - start.y)
        self.seen.add(ends)
        self.spots += [start, end]

    def draw_point(self, pos, properties):
        self.spots.append(pos)

    def draw_filled_polygon(self, points, properties):
        self.spots += list(points)

    def draw_text(self, text, transform, properties, cap_height):
        self.texts.append(text)

    def get_font_measurements(self, cap_height, font=None):
        return FontMeasurements(0, cap_height, cap_height * 0.7, cap_height * 0.3)

    def get_text_line_width(self, text, cap_height, font=None):
        return len(text) * cap_height * 0.62

    def set_background(self, color):
        pass

    def clear(self):
        pass


def block(doc, name="B"):
    made = doc.blocks.new(name, base_point=(1, 2))
    made.add_line((0, 0), (10, 0))
    made.add_arc((5, 5), 3, 20, 250)
    made.add_lwpolyline([(0, 0, 0.5), (4, 0, -0.3), (4, 4, 0)], format="xyb", close=True) if doc.dxfversion > "AC1009" else made.add_polyline2d([(0, 0), (4, 0), (4, 4)], close=True)
    return made


def nested(doc, msp):
    block(doc)
    outer = doc.blocks.new("OUTER")
    outer.add_blockref("B", (20, 0), {"rotation": 30, "xscale": 2, "yscale": 2, "zscale": 2})
    outer.add_blockref("B", (0, 20), {"rotation": -75, "xscale": -1})
    msp.add_blockref("OUTER", (100, 50), {"rotation": 45, "xscale": 1.5, "yscale": 1.5, "zscale": 1.5})
    msp.add_blockref("B", (-50, 50), {"rotation": 45, "xscale": 0.5, "yscale": 1.5})
    msp.add_blockref("OUTER", (0, 0))


def grid(doc, msp):
    block(doc)
    msp.add_blockref("B", (5, 5), {"rotation": 20, "column_count": 3, "row_count": 2, "column_spacing": 25, "row_spacing": 15})


def attributes(doc, msp):
    made = block(doc)
    made.add_attdef("NUMBER", (1, 1), dxfattribs={"height": 2})
    placed = msp.add_blockref("B", (10, 10), {"rotation": 90})
    placed.add_attrib("NUMBER", "FM-1", (12, 12), dxfattribs={"height": 2})


def mirrored(doc, msp):
    msp.add_arc((10, 5), 4, 30, 120, dxfattribs={"extrusion": (0, 0, -1)})
    msp.add_circle((30, 5), 4, dxfattribs={"extrusion": (0, 0, -1)})
    if doc.dxfversion > "AC1009":
        msp.add_lwpolyline([(0, 0, 0.7), (10, 0, 0), (10, 5, -0.4)], format="xyb", dxfattribs={"extrusion": (0, 0, -1)})


def tilted(doc, msp):
    msp.add_circle((10, 5, 3), 8, dxfattribs={"extrusion": (0.3, -0.4, 0.85)})
    msp.add_arc((0, 5, 1), 8, 10, 200, dxfattribs={"extrusion": (1, 0, 0.2)})


def hatches(doc, msp):
    hatch = msp.add_hatch(color=1)
    hatch.paths.add_polyline_path([(0, 0), (30, 0), (30, 20), (0, 20)], is_closed=True)
    edges = hatch.paths.add_edge_path()
    edges.add_arc((15, 10), 4, 0, 360)


def dimensions(doc, msp):
    msp.add_linear_dim(base=(0, 12), p1=(0, 0), p2=(30, 0)).render()
    msp.add_aligned_dim(p1=(0, 0), p2=(30, 20), distance=5).render()
    msp.add_radius_dim(center=(50, 10), radius=8, angle=30).render()
    msp.add_diameter_dim(center=(80, 10), radius=8, angle=120).render()
    msp.add_angular_dim_2l(base=(10, 45), line1=((0, 30), (20, 30)), line2=((0, 30), (15, 45))).render()


def paragraphs(doc, msp):
    msp.add_mtext("Deburr \\P\\H3;all {\\fArial;edges}", {"char_height": 2.5, "insert": (5, 5), "attachment_point": 1})


def splines(doc, msp):
    msp.add_open_spline([(0, 0), (10, 20), (20, -10), (30, 15), (45, 0)], degree=3)
    msp.add_rational_spline([(0, 30), (10, 50), (20, 20), (30, 45)], [1, 3, 0.5, 1], degree=3)
    msp.add_spline(fit_points=[(60, 0), (80, 20), (100, 0)])


def polylines(doc, msp):
    msp.add_polyline2d([(0, 0, 0, 0, 0.4), (20, 0, 0, 0, 0), (20, 20, 0, 0, -1)], format="xyseb", close=True)
    msp.add_polyline3d([(0, 30, 1), (20, 40, 5), (40, 30, 9)])


def nets(doc, msp):
    net = msp.add_polymesh((3, 4))
    for m in range(3):
        for n in range(4):
            net.set_mesh_vertex((m, n), (m * 10, n * 5 + m, m * n))


KINDS = {
    "lines": (ALL, lambda doc, msp: [msp.add_line((0, 0), (30, 40)), msp.add_line((5, 5), (-20, 8))]),
    "circles": (ALL, lambda doc, msp: [msp.add_circle((5, 5), 12), msp.add_arc((50, 5), 12, 350, 100)]),
    "ellipses": (NEWER, lambda doc, msp: [msp.add_ellipse((0, 0), (20, 10), 0.4), msp.add_ellipse((50, 0), (0, 20), 0.3, 1, 4), msp.add_ellipse((90, 0, 2), (10, 3, 0), 0.5, 0.5, 5, dxfattribs={"extrusion": (0, 0, -1)})]),
    "polylines": (ALL, polylines),
    "light polylines": (NEWER, lambda doc, msp: [msp.add_lwpolyline([(0, 0, 0.4), (20, 0, 0), (20, 20, -1)], format="xyb", close=True)]),
    "splines": (NEWER, splines),
    "points": (ALL, lambda doc, msp: [msp.add_point((3, 4)), msp.add_point((30, 40))]),
    "solids": (ALL, lambda doc, msp: [msp.add_solid([(0, 0), (10, 0), (0, 10), (12, 9)]), msp.add_trace([(20, 0), (30, 0), (20, 10), (32, 9)])]),
    "faces": (ALL, lambda doc, msp: [msp.add_3dface([(0, 0, 0), (10, 0, 5), (10, 10, 0), (0, 10, 5)])]),
    "nets": (ALL, nets),
    "many faces": (ALL, lambda doc, msp: msp.add_polyface().append_faces([[(0, 0, 0), (10, 0, 2), (10, 10, 3)], [(10, 0, 2), (20, 5, 1), (20, 10, 0), (10, 10, 3)]])),
    "several lines": (NEWER, lambda doc, msp: msp.add_mline([(0, 0), (30, 0), (30, 20), (50, 35)], close=False)),
    "nested": (ALL, nested),
    "grid": (ALL, grid),
    "attributes": (ALL, attributes),
    "mirrored": (ALL, mirrored),
    "tilted": (ALL, tilted),
    "texts": (ALL, lambda doc, msp: [msp.add_text("%%c12 %%p0.1", dxfattribs={"height": 3, "insert": (1, 2)}), msp.add_text("90%%d", dxfattribs={"height": 3, "insert": (10, 20), "rotation": 30})]),
    "paragraphs": (NEWER, paragraphs),
    "hatches": (NEWER, hatches),
    "dimensions": (ALL, dimensions),
    "leaders": (NEWER, lambda doc, msp: [msp.add_leader([(0, 0), (10, 10), (20, 10)])]),
    "layers off": (ALL, lambda doc, msp: [msp.add_line((0, 0), (10, 0)), doc.layers.new("HID").off(), msp.add_line((0, 0), (99, 99), {"layer": "HID"})]),
}

said = []
for kind, (versions, draw) in KINDS.items():
    for version in versions:
        doc = ezdxf.new(version, setup=True)
        draw(doc, doc.modelspace())
        name = f"{kind.replace(' ', '-')}-{version}.dxf"
        doc.saveas(os.path.join(FOLDER, name))
        recorder = Recorder()
        config = Configuration.defaults().with_changes(
            hatch_policy=HatchPolicy.SHOW_OUTLINE, line_policy=LinePolicy.SOLID, max_flattening_distance=0.001
        )
        Frontend(RenderContext(doc), recorder, config).draw_layout(doc.modelspace())
        spots = recorder.spots
        said.append(
            {
                "file": name,
                "kind": kind,
                "version": version,
                "length": recorder.length,
                "low": [min((p.x for p in spots), default=0), min((p.y for p in spots), default=0)],
                "high": [max((p.x for p in spots), default=0), max((p.y for p in spots), default=0)],
                "texts": sorted(recorder.texts),
            }
        )
print(json.dumps(said))
