"""A game loop as small as can be: it reads a plan, builds a structure and walks from its door to another one.

    woven-locus handover selvedge-vale.plan.json --language python --out rules
    python3 examples/valley.py rules selvedge-vale.plan.json

Everything that it knows of the plan it asks the source that was handed over, in the folder `rules`.
"""

from __future__ import annotations

import sys

KIND, EVERY, ACROSS, ALONG = "spring-house", 12, 48, 14


def nearest_spot(plan, judge, kind, around):
    """The nearest cell to another one at which a kind may stand and has a way by road, with its verdict."""
    col, row = around
    spots = [(c, r) for r in range(row - 20, row + 21) for c in range(col - 20, col + 21)]
    spots.sort(key=lambda cell: (abs(cell[0] - col) + abs(cell[1] - row), cell[1], cell[0]))
    for cell in spots:
        if judge(plan, kind, cell).ok and beside_road(plan, kind, cell):
            return cell
    return None


def beside_road(plan, kind, cell):
    shape = plan.footprint(kind, 0)
    doors = [(cell[0] + c, cell[1] + r) for c, r in shape.approaches()]
    return any(plan.grid.contains(*at) and plan.road[plan.grid.slot(*at)] for at in doors)


def mark_at(plan, cell):
    """One letter for a cell: a structure, an obstacle, road, else its ground."""
    if not plan.grid.contains(*cell):
        return " "
    slot = plan.grid.slot(*cell)
    who = plan.occupant[slot]
    if who > 0:
        return plan.structures[who].kind[0].upper()
    if who < 0:
        return "o"
    if plan.barrier[slot]:
        return "|"
    return "=" if plan.road[slot] else (". ,~;^"[plan.ground[slot] % 6])


def frame(plan, walker, step, steps):
    """The map around the walker, as text."""
    col, row = walker[0] - ACROSS // 2, walker[1] - ALONG // 2
    lines = [f"step {step} of {steps}, at {walker[0]}, {walker[1]}"]
    for r in range(row, row + ALONG):
        cells = [(c, r) for c in range(col, col + ACROSS)]
        lines.append("".join("@" if at == walker else mark_at(plan, at) for at in cells).rstrip())
    return "\n".join(lines)


def main(folder, path):
    sys.path.insert(0, folder)
    from locus import load
    from locus.placement import judge
    from locus.roads import links
    from locus.routes import find_route

    plan = load(path)
    kind, before = plan.kinds[KIND], plan.balance
    cell = nearest_spot(plan, judge, kind, plan.structures[min(plan.structures)].cell)
    if cell is None:
        sys.exit(f"{kind.name} may stand nowhere near")
    built = plan.place(kind.key, cell)
    again = judge(plan, kind, cell)
    print(f"{kind.name} {built.number} at {cell[0]}, {cell[1]}; money {before} to {plan.balance}")
    print(f"once more there: {', '.join(again.reasons)}")
    joined = next((some for some, _cells in links(plan)[0] if built.number in some), [])
    others = [number for number in joined if number != built.number]
    if not others:
        sys.exit("no road leads on")
    routes = {number: find_route(plan, built.number, number) for number in others}
    goal = max(others, key=lambda number: (routes[number].length, number))
    route = routes[goal]
    print(
        f"to {plan.kinds[plan.structures[goal].kind].name} {goal}: {route.length:.0f} units by road"
    )
    for step, at in enumerate(route.cells):
        if step % EVERY == 0 or step == len(route.cells) - 1:
            print(frame(plan, at, step, len(route.cells) - 1))


if __name__ == "__main__":
    if len(sys.argv) != 3:
        sys.exit("usage: python3 valley.py FOLDER PLAN")
    main(*sys.argv[1:])
