/// Returns the kind of a light: `point`, `spot`, `area`, `directional`, `ambient` or `output`.
pub fn light_kind(light: u32) -> &str {
    if outside(light, LIGHTS) { "" } else { LIGHT_KINDS[light] }
}

/// Returns the number of lamps of a light; 0 if the game decides.
pub fn light_lamp_count(light: u32) -> u32 {
    if outside(light, LIGHTS) { 0 } else { LIGHT_LAMPS[light] }
}

/// Returns the tags of a light as bits.
pub fn light_tags(light: u32) -> u32 {
    if outside(light, LIGHTS) { 0 } else { LIGHT_TAGS[light] }
}

/// Returns the number of channels of a light.
pub fn light_channel_count(light: u32) -> u32 {
    if outside(light, LIGHTS) { 0 } else { CHANNEL_STARTS[light as usize + 1].wrapping_sub(CHANNEL_STARTS[light]) }
}

/// Returns the index of a channel among those of all lights; CHANNELS if it is out of range.
fn channel_at(light: u32, channel: u32) -> u32 {
    if outside(channel, light_channel_count(light)) { CHANNELS } else { CHANNEL_STARTS[light].wrapping_add(channel) }
}

/// Returns the name of a channel.
pub fn channel_name(light: u32, channel: u32) -> &str {
    let at = channel_at(light, channel);
    if at < CHANNELS { CHANNEL_NAMES[at] } else { "" }
}

/// Returns the unit of a channel; empty for plain numbers, colors and flags.
pub fn channel_unit(light: u32, channel: u32) -> &str {
    let at = channel_at(light, channel);
    if at < CHANNELS { CHANNEL_UNITS[at] } else { "" }
}

/// Returns the number of values of a channel: 1, or 3 for colors and points.
pub fn channel_size(light: u32, channel: u32) -> u32 {
    let at = channel_at(light, channel);
    if at < CHANNELS { CHANNEL_PARTS[at] } else { 0 }
}

/// Returns when a channel changes: 0 never, 1 between runs, 2 on events, 3 over time.
pub fn channel_changes(light: u32, channel: u32) -> u32 {
    let at = channel_at(light, channel);
    if at < CHANNELS { CHANNEL_CHANGES[at] } else { 0 }
}

/// Returns the number of values of a lamp, over all channels.
pub fn light_value_count(light: u32) -> u32 {
    let mut values: u32 = 0;
    for channel in 0..light_channel_count(light) {
        values = values.wrapping_add(channel_size(light, channel));
    }
    values
}

/// Reads all lamps into an array of ALL_VALUES floats: light by light, lamp by lamp, channel by channel. Flags are 0 or 1.
/// Lights whose number of lamps the game decides are skipped.
pub fn read_all(run: &Run, values: &mut [f32]) {
    let mut at = 0;
    for light in 0..LIGHTS {
        for index in 0..LIGHT_LAMPS[light] {
            at = put_lamp(run, light, index, values, at);
        }
    }
}

/// Updates that array: reads the lights that have a channel that changes during a run.
pub fn read_changing(run: &Run, values: &mut [f32]) {
    let mut at = 0;
    for light in 0..LIGHTS {
        if LIGHT_CHANGES[light] < 2 {
            at += LIGHT_LAMPS[light].wrapping_mul(light_value_count(light)) as usize;
        } else {
            for index in 0..LIGHT_LAMPS[light] {
                at = put_lamp(run, light, index, values, at);
            }
        }
    }
}
