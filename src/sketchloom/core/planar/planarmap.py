"""The planar map: junctions, arcs between them, and the face on either side of each arc."""

from dataclasses import dataclass, field

import numpy as np

from sketchloom.core.arrays import Bytes, Ints, connected_parts, cycles_of, rank_chains
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions import Faces, Runs, find_faces

__all__ = ["EAST", "NORTH", "OUTSIDE", "SOUTH", "WEST", "PlanarMap", "planar_map"]

OUTSIDE = 0
EAST, SOUTH, WEST, NORTH = range(4)


@dataclass(frozen=True, eq=False)
class PlanarMap:
    """Boundaries of a label map as arcs of cracks, the sides between unlike pixels.

    An arc's cracks run from its first to its last vertex with the face
    `left` on the left hand as one walks (y points down: walking east, left is
    up). A half-edge is an arc with a direction: ``2 a`` forwards,
    ``2 a + 1`` backwards.

    Attributes
    ----------
    shape : (int, int)
        Height and width of the label map, px.
    vertices : (V, 2) int
        x, y of junctions, and of one corner on each loop without a junction.
    degree : (V,) int
        2 for a loop's own vertex, else 3 or 4 ends of arcs.
    tail, head : (A,) int
        Vertex where each arc begins and ends; alike for a loop.
    left, right : (A,) int
        Face on either side.
    offset : (A + 1,) int
        Where each arc's cracks begin in `corner` and `heading`.
    corner : (N, 2) int
        x, y where each crack begins.
    heading : (N,) int8
        East, south, west or north.
    leaving : (V, 4) int
        The half-edge that leaves a vertex in each heading, or -1.
    faces : Faces
    """

    shape: tuple[int, int]
    vertices: Ints
    degree: Ints
    tail: Ints
    head: Ints
    left: Ints
    right: Ints
    offset: Ints = field(repr=False)
    corner: Ints = field(repr=False)
    heading: Ints = field(repr=False)
    leaving: Ints = field(repr=False)
    faces: Faces = field(repr=False)

    @property
    def loops(self) -> np.ndarray:
        """Which arcs are closed loops without a junction; (A,) bool."""
        return self.degree[self.tail] == 2

    def twin_heading(self) -> Ints:
        """Heading in which each half-edge leaves its vertex; (2 A,) int."""
        out = np.empty(2 * len(self.tail), np.int64)
        out[0::2] = self.heading[self.offset[:-1]]
        out[1::2] = (self.heading[self.offset[1:] - 1] + 2) % 4
        return out

    def outline(self, chosen: np.ndarray) -> tuple[Ints, Ints]:
        """Walk round a set of faces.

        Every arc with exactly one side in the set is walked once, the set on
        the left. Regions that only touch at a corner stay apart.

        Parameters
        ----------
        chosen : (F,) bool
            The set; face 0 must not be in it.

        Returns
        -------
        half_edges, offset : (B,) and (C + 1,) int
            Half-edges of one closed walk after the other, and where each begins.
        """
        side = np.stack([self.left, self.right], 1)
        within = chosen[side]
        walked = np.stack([within[:, 0] & ~within[:, 1], within[:, 1] & ~within[:, 0]], 1).ravel()
        half = np.flatnonzero(walked)
        arrive_at = np.where(half % 2 == 0, self.head[half // 2], self.tail[half // 2])
        came_from = self.twin_heading()[half ^ 1]
        follow = np.full(len(half), -1)
        for turn in (1, 2, 3, 4):  # from the way we came, through the face on the left hand
            candidate = self.leaving[arrive_at, (came_from + turn) % 4]
            take = (follow < 0) & (candidate >= 0) & walked[candidate]
            follow[take] = candidate[take]
        return_to = np.zeros(len(walked), np.int64)
        return_to[half] = np.arange(len(half))
        order, offset = cycles_of(return_to[follow])
        return half[order], offset


def _cracks(labels: Bytes | Ints) -> tuple[Ints, Ints, Bytes]:
    """Crack edges between unlike pixels, the frame among them.

    Returns
    -------
    across, down : (.,) int
        Flat corner index (row length W + 1) where each level crack (to the
        east) and each upright crack (to the south) begins, rising.
    ends : ((H + 1) (W + 1),) uint8
        Bit ``1 << heading`` for each crack that leaves a corner.
    """
    height, width = labels.shape
    level = np.ones((height + 1, width + 1), bool)
    level[:, width] = False
    np.not_equal(labels[1:], labels[:-1], out=level[1:-1, :-1])
    upright = np.ones((height + 1, width + 1), bool)
    upright[height] = False
    np.not_equal(labels[:, 1:], labels[:, :-1], out=upright[:-1, 1:-1])
    ends = level.view(np.uint8) << EAST
    ends |= upright.view(np.uint8) << SOUTH
    ends[:, 1:] |= level.view(np.uint8)[:, :-1] << WEST
    ends[1:] |= upright.view(np.uint8)[:-1] << NORTH
    return np.flatnonzero(level), np.flatnonzero(upright), ends.ravel().astype(np.uint8, copy=False)


_BIT_HEADING = np.zeros(9, np.int8)
_BIT_HEADING[[1, 2, 4, 8]] = EAST, SOUTH, WEST, NORTH
_COUNT = np.array([bin(i).count("1") for i in range(16)], np.int8)


def planar_map(cells: Bytes | Ints, tick: Tick = no_tick, found: tuple[Faces, Runs] | None = None) -> PlanarMap:
    """Build the planar map of a label map by array operations.

    Parameters
    ----------
    cells : (H, W) int
        Ink and part of every pixel, as `LabelMap.cells` has them; plain labels will do.
    found : (Faces, Runs), optional
        What `find_faces` gave for these cells, when it is known already.

    Notes
    -----
    Vertices are the crack corners of degree 3 and 4; a corner where two inks
    meet like a chessboard has degree 4. With the outside as a face and C
    components, V - E + F = 1 + C.
    """
    height, width = cells.shape
    across, down, ends = _cracks(cells)
    row = width + 1
    many = len(across) + len(down)
    crack_at = np.empty((2, ends.size), np.int32)  # only ever read where a crack begins
    crack_at[0, across] = np.arange(len(across))
    crack_at[1, down] = np.arange(len(across), many)
    begin = np.empty(2 * many, np.int64)  # half cracks: 2 i east or south, 2 i + 1 west or north
    begin[0::2] = np.concatenate([across, down])
    begin[1::2] = np.concatenate([across + 1, down + row])
    heading = np.empty(2 * many, np.int8)
    heading[0 : 2 * len(across) : 2], heading[1 : 2 * len(across) : 2] = EAST, WEST
    heading[2 * len(across) :: 2], heading[2 * len(across) + 1 :: 2] = SOUTH, NORTH
    arrive = begin.reshape(-1, 2)[:, ::-1].ravel()
    tick(0.2)

    def leaving(corner: Ints, way: Ints) -> Ints:
        back = (way == WEST).astype(np.int64) + row * (way == NORTH)
        return 2 * crack_at[way & 1, corner - back].astype(np.int64) + (way >= WEST)

    ways = ends[arrive]
    plain = _COUNT[ways] == 2
    follow = np.arange(2 * many)
    rest = ways[plain] & ~(np.uint8(1) << ((heading[plain] + 2) % 4).astype(np.uint8))
    follow[plain] = leaving(arrive[plain], _BIT_HEADING[rest])
    order, offset = _arcs(follow, _COUNT[ends[begin]] != 2)
    tick(0.6)

    first, last = order[offset[:-1]], order[offset[1:] - 1]
    corners, vertex_of = np.unique(np.concatenate([begin[first], arrive[last]]), return_inverse=True)
    arcs = len(first)
    tail, head = vertex_of[:arcs], vertex_of[arcs:]
    out = np.full((len(corners), 4), -1)
    out[tail, heading[first]] = 2 * np.arange(arcs)
    out[head, (heading[last] + 2) % 4] = 2 * np.arange(arcs) + 1
    faces, runs = found or find_faces(cells)
    left, right = _sides(begin[first], heading[first], height, width, runs)
    return PlanarMap(
        shape=(height, width),
        vertices=np.stack([corners % row, corners // row], 1),
        degree=_COUNT[ends[corners]].astype(np.int64),
        tail=tail,
        head=head,
        left=left,
        right=right,
        offset=offset,
        corner=np.stack([begin[order] % row, begin[order] // row], 1),
        heading=heading[order],
        leaving=out,
        faces=faces,
    )


def _arcs(follow: Ints, begins: np.ndarray) -> tuple[Ints, Ints]:
    """Order half cracks into arcs, each arc in one of its two directions.

    Parameters
    ----------
    follow : (2 N,) int
        The next half crack; those that arrive at a junction point to themselves.
    begins : (2 N,) bool
        Half cracks that leave a junction.

    Returns
    -------
    order, offset
        Half cracks arc by arc, open arcs first, and where each arc begins.
    """
    every = np.arange(len(follow))
    heads = np.flatnonzero(begins)
    on_chain = _on_chains(follow, begins)
    last, steps = rank_chains(np.where(on_chain, follow, every))
    tails = last[heads]
    keep = heads < (tails ^ 1)
    heads, tails = heads[keep], tails[keep]
    lengths = steps[heads] + 1
    slot = np.full(len(follow), -1)
    slot[tails] = np.arange(len(tails))
    of_arc = np.where(on_chain, slot[last], -1)
    chained = np.flatnonzero(of_arc >= 0)
    offset = np.append(0, np.cumsum(lengths))
    order = np.empty(int(offset[-1]), np.int64)
    order[offset[of_arc[chained] + 1] - 1 - steps[chained]] = chained

    looped = np.flatnonzero(~on_chain)
    renumber = np.zeros(len(follow), np.int64)
    renumber[looped] = np.arange(len(looped))
    cycle, cycle_offset = cycles_of(renumber[follow[looped]])
    cycle = looped[cycle]
    forward = cycle[cycle_offset[:-1]] % 2 == 0
    sizes = np.diff(cycle_offset)
    loop_cracks = cycle[np.repeat(forward, sizes)]
    order = np.concatenate([order, loop_cracks])
    offset = np.concatenate([offset, offset[-1] + np.cumsum(sizes[forward])])
    return order, offset


def _on_chains(follow: Ints, begins: np.ndarray) -> np.ndarray:
    """Which half cracks hang on a junction; the others run in loops."""
    count, part = connected_parts(len(follow), np.arange(len(follow)), follow)
    chained = np.zeros(count, bool)
    chained[part[begins]] = True
    return chained[part]


def _sides(begin: Ints, heading: Ints, height: int, width: int, runs: Runs) -> tuple[Ints, Ints]:
    """Face on the left and the right hand of half cracks; `OUTSIDE` beyond the frame."""
    y, x = np.divmod(begin, width + 1)
    left_dx = np.array([0, 0, -1, -1])[heading]
    left_dy = np.array([-1, 0, 0, -1])[heading]
    right_dx = np.array([0, -1, -1, 0])[heading]
    right_dy = np.array([0, 0, -1, -1])[heading]

    def face(px: Ints, py: Ints) -> Ints:
        inside = (px >= 0) & (px < width) & (py >= 0) & (py < height)
        out = np.full(len(px), OUTSIDE)
        out[inside] = runs.face_at(py[inside] * width + px[inside])
        return out

    return face(x + left_dx, y + left_dy), face(x + right_dx, y + right_dy)
