-- A bare host of the Ostrel lido in Lua: frames of uneven length and a hitch, events out of order, a save and a load.
--
--     caltrin export crates/caltrin/books/lido.caltrin --to lua -o generated
--     LUA_PATH=generated/?.lua lua5.4 examples/hosts/lido.lua      (or luajit)
local lido = require("ostrel_lido")

-- What is seen from the basin. Lists begin at 0, as the lamps do.
local function look(run)
    local stars = {}
    for n = 0, 7 do stars[n] = lido.read_star(run, n) end
    lido.fill_star(run, 0, 8, stars)
    local single = lido.read_fountain(run).intensity + lido.read_stage(run).intensity + lido.read_siren(run).intensity
    return single + lido.read_pool_wall(run, 9).intensity + lido.read_cabins_bulb(run, 3).intensity + stars[7].intensity
end

-- 4 to 24 ms, and now and then half a second is lost.
local function length(frame)
    return frame % 500 == 499 and 0.5 or 0.004 + 0.02 * (frame % 7) / 6.0
end

-- What the game does, and in which frame.
local acts = {
    [100] = function(run) lido.fire_mains_back(run) end, -- they are on already: nothing happens
    [200] = function(run) lido.fire_gala(run) end,
    [300] = function(run) lido.fire_cabins_cord(run, 3) end,
    [400] = function(run) lido.fire_rocket(run, 2000.0, 2500.0, -3000.0, 0.2, 1.0, 0.2, 2.0) end,
    [700] = function(run) lido.set_throttle(run, 0.95) end,
    [900] = function(run) lido.fire_mains_out(run) end,
    [1000] = function(run) lido.fire_mains_back(run) end,
    [2200] = function(run) lido.set_walker(run, 2300.0, 170.0, -100.0) end,
}
local run = lido.start(lido.BOOK_SEED)
local time, notices, saved = 0.0, 0, nil
for frame = 0, 2999 do
    time = time + length(frame)
    if acts[frame] then acts[frame](run) end
    if frame == 1500 then saved = lido.save(run) end
    while not lido.advance(run, time) do end -- more than once only after a very long frame
    for notice in lido.take_notice, run do
        notices = notices + 1
        if notices <= 4 then print(("%.3f s: %s %s"):format(notice.moment, notice.name, notice.text)) end
    end
end
-- From the save on in one go, with what the game did meanwhile at its moment: the same, bit for bit.
local loaded = lido.start(0)
if lido.load(loaded, saved) ~= 0 then error("a save is dropped") end
time = loaded.now
for frame = 1500, 2199 do time = time + length(frame) end
lido.advance(loaded, time)
acts[2200](loaded)
lido.advance(loaded, run.now)
if look(loaded) ~= look(run) then error("a loaded run goes on otherwise") end
print(("%.1f s, %d notices, the same after loading"):format(run.now, notices))
local sum_of_save = 0
for n = 1, #saved do sum_of_save = (31 * sum_of_save + saved:byte(n)) % 4294967296 end
print(("a save of %d bytes, %08x"):format(#saved, sum_of_save))
