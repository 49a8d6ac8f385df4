-- A game loop as small as can be: it reads a plan, builds a structure and walks from its door to another one.
--
--     woven-locus handover selvedge-vale.plan.json --language lua --out rules
--     lua5.4 examples/valley.lua rules selvedge-vale.plan.json
--
-- Everything that it knows of the plan it asks the source that was handed over, in the folder `rules`. It says and draws
-- the same as valley.py.

local KIND, EVERY, ACROSS, ALONG = "spring-house", 12, 48, 14

if #arg ~= 2 then
  io.stderr:write("usage: lua5.4 valley.lua FOLDER PLAN\n")
  os.exit(1)
end
package.path = arg[1] .. "/?.lua;" .. package.path

local Plan = require("locus.plan")
local placement = require("locus.placement")
local roads = require("locus.roads")
local routes = require("locus.routes")

local function beside_road(plan, kind, cell)
  for _, door in ipairs(plan:footprint(kind, 0):approaches()) do
    local at = { cell[1] + door[1], cell[2] + door[2] }
    if plan.grid:contains(at) and plan.road[plan.grid:slot(at)] > 0 then
      return true
    end
  end
  return false
end

--- The nearest cell to another one at which a kind may stand and has a way by road.
local function nearest_spot(plan, kind, around)
  local spots = {}
  local function away(cell)
    return math.abs(cell[1] - around[1]) + math.abs(cell[2] - around[2])
  end
  for row = around[2] - 20, around[2] + 20 do
    for col = around[1] - 20, around[1] + 20 do
      table.insert(spots, { col, row })
    end
  end
  table.sort(spots, function(a, b)
    if away(a) ~= away(b) then
      return away(a) < away(b)
    end
    return a[2] < b[2] or (a[2] == b[2] and a[1] < b[1])
  end)
  for _, cell in ipairs(spots) do
    if placement.judge(plan, kind, cell).ok and beside_road(plan, kind, cell) then
      return cell
    end
  end
end

--- One letter for a cell: a structure, an obstacle, road, else its ground.
local function mark_at(plan, cell)
  if not plan.grid:contains(cell) then
    return " "
  end
  local slot = plan.grid:slot(cell)
  local who = plan.occupant[slot]
  if who > 0 then
    return plan.structures[who].kind:sub(1, 1):upper()
  elseif who < 0 then
    return "o"
  elseif plan.barrier[slot] then
    return "|"
  elseif plan.road[slot] > 0 then
    return "="
  end
  local ground = (plan.ground[slot] - 1) % 6 + 1
  return (". ,~;^"):sub(ground, ground)
end

--- The map around the walker, as text.
local function frame(plan, walker, step, steps)
  local lines = { ("step %d of %d, at %d, %d"):format(step, steps, walker[1], walker[2]) }
  for row = walker[2] - ALONG // 2, walker[2] - ALONG // 2 + ALONG - 1 do
    local line = {}
    for col = walker[1] - ACROSS // 2, walker[1] - ACROSS // 2 + ACROSS - 1 do
      local here = col == walker[1] and row == walker[2]
      table.insert(line, here and "@" or mark_at(plan, { col, row }))
    end
    table.insert(lines, (table.concat(line):gsub("%s+$", "")))
  end
  return table.concat(lines, "\n")
end

local plan = Plan.load(arg[2])
local numbers = plan:numbers()
local kind, before = plan:kind_of(KIND), plan:balance()
local cell = nearest_spot(plan, kind, plan.structures[numbers[1]].cell)
if not cell then
  io.stderr:write(kind.name, " may stand nowhere near\n")
  os.exit(1)
end
local built = plan:place(kind.key, cell)
local again = placement.judge(plan, kind, cell)
print(("%s %d at %d, %d; money %d to %d"):format(kind.name, built.number, cell[1], cell[2], before, plan:balance()))
print("once more there: " .. table.concat(again.reasons, ", "))

--- The route to the furthest of the structures that are joined to one by road, and that one.
local function furthest(number)
  local found, goal
  for _, group in ipairs(roads.links(plan)) do
    for _, member in ipairs(group.structures) do
      for _, other in ipairs(member == number and group.structures or {}) do
        local route = other ~= number and routes.find_route(plan, number, other, "roads", 4)
        if route and (not found or route.length >= found.length) then
          found, goal = route, other
        end
      end
    end
  end
  return found, goal
end

local route, goal = furthest(built.number)
if not route then
  io.stderr:write("no road leads on\n")
  os.exit(1)
end
print(("to %s %d: %.0f units by road"):format(plan.kinds[plan.structures[goal].kind].name, goal, route.length))
for step, at in ipairs(route.cells) do
  if (step - 1) % EVERY == 0 or step == #route.cells then
    print(frame(plan, at, step - 1, #route.cells - 1))
  end
end
