// A level in C++ whose lamps are bound by name: two instances of the Ostrel lido, paused and slowed down by the game, saved,
// and loaded into a changed book.
//
//     caltrin export crates/caltrin/books/lido.caltrin --to cpp --names -o generated
//     (the book is changed)
//     caltrin export crates/caltrin/books/lido.caltrin --to cpp --names --prefix changed_lido -o generated
//     g++ -std=c++17 -O2 -I generated examples/hosts/bound.cpp -o bound && ./bound
#include "ostrel_lido.hpp"
#include "changed_lido.hpp"

#include <cstdio>
#include <string>
#include <vector>

namespace {

// A lamp of the level: the engine's own node, and where its values are found.
struct Node {
    std::string name; // as a level editor has it, such as "cabins.bulb/3"
    std::uint32_t light = 0, lamp = 0;
    std::size_t first = 0; // of its values in the list of all
    std::uint32_t intensity = 0; // which of them that is
    float shown = 0.0f;
};

// What the engine has of a book: no name or count of it is typed here.
struct Level {
    std::vector<Node> nodes;
    std::vector<float> values;
};

// The calls of one exported file, so that a level can go on in another.
struct Book {
    std::uint32_t lights, all_values;
    const char *(*light_name)(std::uint32_t);
    const char *(*light_kind)(std::uint32_t);
    std::uint32_t (*light_named)(const char *);
    std::uint32_t (*light_lamp_count)(std::uint32_t);
    std::uint32_t (*light_value_count)(std::uint32_t);
    std::uint32_t (*light_channel_count)(std::uint32_t);
    const char *(*channel_name)(std::uint32_t, std::uint32_t);
    std::uint32_t (*channel_size)(std::uint32_t, std::uint32_t);
};

#define BOOK(space) \
    Book{ space::LIGHTS, space::ALL_VALUES, space::light_name, space::light_kind, space::light_named, space::light_lamp_count, \
        space::light_value_count, space::light_channel_count, space::channel_name, space::channel_size }

// The nodes that a level editor would have placed: one for each lamp that shines.
std::vector<std::string> placed(const Book &book)
{
    std::vector<std::string> names;
    for (std::uint32_t light = 0; light < book.lights; ++light) {
        if (std::string(book.light_kind(light)) == "output") continue;
        for (std::uint32_t lamp = 0; lamp < book.light_lamp_count(light); ++lamp)
            names.push_back(std::string(book.light_name(light)) + "/" + std::to_string(lamp));
    }
    return names;
}

// Finds each node's light by its name. Nodes that the book does not have are told and left dark.
Level bound(const Book &book, const std::vector<std::string> &names, unsigned &unknown)
{
    Level level;
    level.values.resize(book.all_values);
    std::vector<std::size_t> starts(book.lights + 1, 0);
    for (std::uint32_t light = 0; light < book.lights; ++light)
        starts[light + 1] = starts[light] + std::size_t{ book.light_lamp_count(light) } * book.light_value_count(light);
    for (const std::string &name : names) {
        const std::size_t slash = name.rfind('/');
        Node node;
        node.name = name;
        node.light = book.light_named(name.substr(0, slash).c_str());
        node.lamp = static_cast<std::uint32_t>(std::stoul(name.substr(slash + 1)));
        if (node.light == book.lights || node.lamp >= book.light_lamp_count(node.light)) {
            ++unknown;
            continue;
        }
        node.first = starts[node.light] + std::size_t{ node.lamp } * book.light_value_count(node.light);
        for (std::uint32_t n = 0; n < book.light_channel_count(node.light); ++n) {
            if (std::string(book.channel_name(node.light, n)) == "intensity") break;
            node.intensity += book.channel_size(node.light, n);
        }
        level.nodes.push_back(node);
    }
    return level;
}

double lit(Level &level)
{
    double sum = 0.0;
    for (Node &node : level.nodes) {
        node.shown = level.values[node.first + node.intensity];
        sum += static_cast<double>(node.shown);
    }
    return sum;
}

} // namespace

int main()
{
    namespace lido = ostrel_lido;
    if (lido::self_test() != 0 || changed_lido::self_test() != 0) return 1;
    const Book book = BOOK(ostrel_lido), changed = BOOK(changed_lido);
    unsigned unknown = 0;
    std::vector<std::string> names = placed(book);
    names.push_back("no_such_lamp/0");
    names.push_back("tube/99");
    // Two instances with their own chance, time and inputs.
    lido::Run runs[2] = { lido::start(23), lido::start(24) };
    Level levels[2] = { bound(book, names, unknown), bound(book, names, unknown) };
    for (int n = 0; n < 2; ++n) lido::read_all(runs[n], levels[n].values.data());

    const std::uint32_t gala = lido::event_named("gala"), throttle = lido::input_named("throttle");
    const double full = 0.95;
    lido::fire_event(runs[0], gala, 0, nullptr);
    lido::set_input(runs[1], throttle, 0, &full);
    for (unsigned frame = 0; frame < 900; ++frame) {
        const bool paused = frame >= 300 && frame < 360;
        const double scale = frame >= 600 ? 0.25 : 1.0; // slow motion
        for (int n = 0; n < 2; ++n) {
            const double before = lit(levels[n]);
            lido::step(runs[n], paused ? 0.0 : scale / 60.0);
            lido::read_changing(runs[n], levels[n].values.data());
            // While the game is paused, light stands still.
            if (paused && frame > 300 && lit(levels[n]) != before) return 2;
        }
    }

    // The second instance goes on in the changed book, bound again by the same names.
    const auto saved = lido::save(runs[1]);
    changed_lido::Run next{};
    std::uint32_t dropped = 0;
    if (!changed_lido::load(next, saved.data(), saved.size(), &dropped)) return 3;
    unsigned gone = 0;
    Level level = bound(changed, names, gone);
    changed_lido::read_all(next, level.values.data());
    // Damage is refused, and the run stays as it was.
    auto broken = saved;
    broken[broken.size() / 2] ^= 1;
    const double now = next.now;
    if (changed_lido::load(next, broken.data(), broken.size()) || next.now != now) return 4;

    unsigned alike = 0;
    lit(levels[1]);
    lit(level);
    for (std::size_t n = 0; n < level.nodes.size(); ++n) alike += level.nodes[n].shown == levels[1].nodes[n].shown;
    std::printf("%zu lamps bound by name, %u names unknown in each instance, %.3f s\n", levels[0].nodes.size(), unknown / 2,
        runs[0].now);
    std::printf("%u of %zu alike in the changed book, %u fields dropped\n", alike, level.nodes.size(), static_cast<unsigned>(dropped));
    return 0;
}
