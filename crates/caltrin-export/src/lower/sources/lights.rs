/// The index of the light or output that has a name; LIGHTS if none has it.
pub fn light_named(name: &str) -> u32 {
    for n in 0..LIGHTS {
        if same_text(LIGHT_NAMES[n], name) {
            return n;
        }
    }
    LIGHTS
}

/// Its name; empty for an index that none has, as all texts here.
pub fn light_name(light: u32) -> &str {
    if outside(light, LIGHTS) { "" } else { LIGHT_NAMES[light] }
}

/// What kind it is: `point`, `spot`, `area`, `directional`, `ambient` or `output`.
pub fn light_kind(light: u32) -> &str {
    if outside(light, LIGHTS) { "" } else { LIGHT_KINDS[light] }
}

/// How many lamps it has; 0 where the game decides, and for an index that none has.
pub fn light_lamps(light: u32) -> u32 {
    if outside(light, LIGHTS) { 0 } else { LIGHT_LAMPS[light] }
}

/// Its tags, a bit for each.
pub fn light_tags(light: u32) -> u32 {
    if outside(light, LIGHTS) { 0 } else { LIGHT_TAGS[light] }
}

/// How many channels it has.
pub fn light_channels(light: u32) -> u32 {
    if outside(light, LIGHTS) { 0 } else { CHANNEL_STARTS[light as usize + 1].wrapping_sub(CHANNEL_STARTS[light]) }
}

/// Where a channel of a light is among all; CHANNELS if it is not there.
fn channel_at(light: u32, channel: u32) -> u32 {
    if outside(channel, light_channels(light)) { CHANNELS } else { CHANNEL_STARTS[light].wrapping_add(channel) }
}

/// The name of a channel of a light.
pub fn channel_name(light: u32, channel: u32) -> &str {
    let at = channel_at(light, channel);
    if at < CHANNELS { CHANNEL_NAMES[at] } else { "" }
}

/// Its unit; empty for numbers without one, colors and what is on or off.
pub fn channel_unit(light: u32, channel: u32) -> &str {
    let at = channel_at(light, channel);
    if at < CHANNELS { CHANNEL_UNITS[at] } else { "" }
}

/// How many values it has: 1, or 3 for a color or a point.
pub fn channel_parts(light: u32, channel: u32) -> u32 {
    let at = channel_at(light, channel);
    if at < CHANNELS { CHANNEL_PARTS[at] } else { 0 }
}

/// When it changes: 0 never, 1 from run to run, 2 when something happens, 3 with time.
pub fn channel_changes(light: u32, channel: u32) -> u32 {
    let at = channel_at(light, channel);
    if at < CHANNELS { CHANNEL_CHANGES[at] } else { 0 }
}

/// How many values a lamp of it has: those of all its channels.
pub fn light_values(light: u32) -> u32 {
    let mut values: u32 = 0;
    for channel in 0..light_channels(light) {
        values = values.wrapping_add(channel_parts(light, channel));
    }
    values
}

/// Reads all lamps into a list of ALL_VALUES: light by light, lamp by lamp, and of each lamp the values of its channels.
/// What is on is 1. Lights whose number of lamps the game decides are left out.
pub fn read_all(run: &Run, values: &mut [f32]) {
    let mut at = 0;
    for light in 0..LIGHTS {
        for index in 0..LIGHT_LAMPS[light] {
            at = put_lamp(run, light, index, values, at);
        }
    }
}

/// Reads into the same list what may have changed since it was filled, in the same run: lights of which some channel
/// changes with time or when something happens.
pub fn read_changing(run: &Run, values: &mut [f32]) {
    let mut at = 0;
    for light in 0..LIGHTS {
        if LIGHT_CHANGES[light] < 2 {
            at += LIGHT_LAMPS[light].wrapping_mul(light_values(light)) as usize;
        } else {
            for index in 0..LIGHT_LAMPS[light] {
                at = put_lamp(run, light, index, values, at);
            }
        }
    }
}
