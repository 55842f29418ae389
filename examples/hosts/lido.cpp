// A bare host of the Ostrel lido in C++: frames of uneven length and a hitch, events out of order, a save and a load.
//
//     caltrin export crates/caltrin/books/lido.caltrin --to cpp -o generated
//     g++ -std=c++17 -O2 -I generated examples/hosts/lido.cpp -o lido && ./lido
#include "ostrel_lido.hpp"

#include <chrono>
#include <cstdio>
#include <type_traits>

namespace lido = ostrel_lido;

// A run is a plain value: it is copied for a second world.
static_assert(std::is_trivially_copyable_v<lido::Run>);

// What is seen from the basin.
static double look(const lido::Run &run)
{
    std::array<lido::PoolWall, 10> walls;
    std::array<lido::LaneFloat, 24> floats;
    std::array<lido::CabinsBulb, 9> bulbs;
    std::array<lido::Garland, 16> garland;
    std::array<lido::Star, 8> stars;
    lido::fill_pool_wall(run, 0, walls);
    lido::fill_lane_float(run, 0, floats);
    lido::fill_cabins_bulb(run, 0, bulbs);
    lido::fill_garland(run, 0, garland);
    lido::fill_star(run, 0, stars);
    const float single = lido::read_fountain(run).intensity + lido::read_stage(run).intensity;
    const float last = walls.back().intensity + floats.back().intensity + bulbs.back().intensity;
    return static_cast<double>(single + last + garland.back().intensity + stars.back().intensity);
}

// 4 to 24 ms, and now and then half a second is lost.
static double length(unsigned frame)
{
    return frame % 500 == 499 ? 0.5 : 0.004 + 0.02 * (frame % 7) / 6.0;
}

int main()
{
    if (lido::self_test() != 0) return 1;
    lido::Run run = lido::start(23);
    auto saved = lido::save(run);
    double time = 0.0, seen = 0.0;
    unsigned notices = 0;
    const auto begin = std::chrono::steady_clock::now();
    for (unsigned frame = 0; frame < 3000; ++frame) {
        time += length(frame);
        if (frame == 100) lido::fire_mains_back(run); // they are on already: nothing happens
        if (frame == 200) lido::fire_gala(run);
        if (frame == 300) lido::fire_cabins_cord(run, 3);
        if (frame == 400) lido::fire_rocket(run, 2000.0, 2500.0, -3000.0, 0.2, 1.0, 0.2, 2.0);
        if (frame == 700) lido::set_throttle(run, 0.95);
        if (frame == 900) lido::fire_mains_out(run);
        if (frame == 1000) lido::fire_mains_back(run);
        if (frame == 1500) saved = lido::save(run);
        if (frame == 2200) lido::set_walker(run, 2300.0, 170.0, -100.0);
        while (!lido::advance(run, time)) {} // more than once only after a very long frame
        seen = look(run);
        for (lido::Notice notice; lido::take_notice(run, notice);)
            if (++notices <= 4) std::printf("%.3f s: %s %s\n", notice.moment, notice.name, notice.text);
    }
    const std::chrono::duration<double, std::micro> passed = std::chrono::steady_clock::now() - begin;
    // From the save on in one go, with what the game did meanwhile at its moment: the same, bit for bit.
    lido::Run loaded{};
    std::uint32_t dropped = 0;
    if (!lido::load(loaded, saved.data(), saved.size(), &dropped) || dropped != 0) return 3;
    time = loaded.now;
    for (unsigned frame = 1500; frame < 2200; ++frame) time += length(frame);
    lido::advance(loaded, time);
    lido::set_walker(loaded, 2300.0, 170.0, -100.0);
    lido::advance(loaded, run.now);
    const double again = look(loaded);
    if (std::memcmp(&again, &seen, sizeof seen) != 0) return 2;
    std::uint32_t sum = 0;
    for (const std::uint8_t byte : saved) sum = 31 * sum + byte;
    std::printf("%.1f s, %u notices, the same after loading\n", run.now, notices);
    std::printf("a save of %zu bytes, %08x\n", saved.size(), static_cast<unsigned>(sum));
    std::printf("a frame: %.2f us to advance and to read 69 lamps; %zu bytes a run\n", passed.count() / 3000.0, sizeof run);
    return 0;
}
