"""A bare host of the Ostrel lido in Python: frames of uneven length and a hitch, events out of order, a save and a load.

    caltrin export crates/caltrin/books/lido.caltrin --to python -o generated
    PYTHONPATH=generated python3 examples/hosts/lido.py
"""
import sys

import ostrel_lido as lido


def look(run):
    """What is seen from the basin."""
    stars = [lido.Star() for _ in range(8)]
    run.fill_star(0, stars)
    single = run.read_fountain().intensity + run.read_stage().intensity + run.read_siren().intensity
    return single + run.read_pool_wall(9).intensity + run.read_cabins_bulb(3).intensity + stars[-1].intensity


def length(frame):
    """4 to 24 ms, and now and then half a second is lost."""
    return 0.5 if frame % 500 == 499 else 0.004 + 0.02 * (frame % 7) / 6.0


run = lido.Run(lido.BOOK_SEED)
# What the game does, and in which frame.
acts = {
    100: lambda run: run.fire_mains_back(),  # they are on already: nothing happens
    200: lambda run: run.fire_gala(),
    300: lambda run: run.fire_cabins_cord(3),
    400: lambda run: run.fire_rocket(2000.0, 2500.0, -3000.0, 0.2, 1.0, 0.2, 2.0),
    700: lambda run: run.set_throttle(0.95),
    900: lambda run: run.fire_mains_out(),
    1000: lambda run: run.fire_mains_back(),
    2200: lambda run: run.set_walker(2300.0, 170.0, -100.0),
}
time, notices, saved = 0.0, 0, None
for frame in range(3000):
    time += length(frame)
    acts.get(frame, lambda run: None)(run)
    if frame == 1500:
        saved = run.save()
    while not run.advance(time):
        pass  # more than once only after a very long frame
    while (notice := run.take_notice()) is not None:
        notices += 1
        if notices <= 4:
            print(f"{notice.moment:.3f} s: {notice.name} {notice.text}")
# From the save on in one go, with what the game did meanwhile at its moment: the same, bit for bit.
loaded = lido.Run(0)
if loaded.load(saved) != 0:
    sys.exit("a save is dropped")
time = loaded.now
for frame in range(1500, 2200):
    time += length(frame)
loaded.advance(time)
acts[2200](loaded)
loaded.advance(run.now)
if look(loaded) != look(run):
    sys.exit("a loaded run goes on otherwise")
print(f"{run.now:.1f} s, {notices} notices, the same after loading")
sum_of_save = 0
for byte in saved:
    sum_of_save = (31 * sum_of_save + byte) % 2**32
print(f"a save of {len(saved)} bytes, {sum_of_save:08x}")
