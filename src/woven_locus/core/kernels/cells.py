"""What follows from the recorded layers of a large block, in one pass that Numba can compile."""

from __future__ import annotations

from numpy import uint8


def derive(  # type: ignore[no-untyped-def]
    terrain,
    reserved,
    road,
    barrier,
    occupant,
    window,
    block,
    box,
    unfit,
    codes,
    ways,
    bits,
    blocks,
    movement,
):
    """Fill a block of the blocks and movement layers.

    terrain, reserved, road, barrier : (H, W) uint8.  occupant : (H, W) int32.
    window : (r0, c0, r1, c1) int64, the slots that may be built on.  block : bits of being outside it.
    box : (r0, c0, r1, c1) int64, what to fill.
    unfit : (256,) uint8, the blocks bits of each terrain code.  codes : (256,) uint8, its movement code.
    ways : (256,) uint8, the movement code of each byte of the road layer, 0 for none.
    bits : (5,) uint8, the bits of reserved, obstacle, occupied, road, barrier.
    blocks, movement : (H, W) uint8, changed in place. O(cells of the box).
    """
    width = box[3] - box[1]
    of_kept, of_obstacle, of_occupied, of_way, of_wall = bits[0], bits[1], bits[2], bits[3], bits[4]
    for row in range(box[0], box[2]):
        # Rows as views, sums in place of branches, and tables looked up apart: the middle one of three passes is then put
        # in lanes by the compiler, and all of it takes less than half the time.
        ground = terrain[row, box[1] : box[3]]
        kept, way = reserved[row, box[1] : box[3]], road[row, box[1] : box[3]]
        who, wall = occupant[row, box[1] : box[3]], barrier[row, box[1] : box[3]]
        held, code = blocks[row, box[1] : box[3]], movement[row, box[1] : box[3]]
        below = not window[0] <= row < window[2]
        for k in range(width):
            held[k] = unfit[ground[k]]
            code[k] = codes[ground[k]]
        for k in range(width):
            found = of_kept * uint8(kept[k] != 0)
            found |= of_obstacle * uint8(who[k] < 0)
            found |= of_occupied * uint8(who[k] > 0)
            found |= of_way * uint8(way[k] != 0)
            found |= of_wall * uint8(wall[k] != 0)
            held[k] |= found
            code[k] *= uint8((who[k] == 0) & (way[k] == 0) & (wall[k] == 0))
        for k in range(width):
            code[k] += ways[way[k]]
        left = width if below else min(width, max(0, window[1] - box[1]))
        for k in range(left):
            held[k] |= block
        for k in range(max(left, window[3] - box[1]), width):
            held[k] |= block
