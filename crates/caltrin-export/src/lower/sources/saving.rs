/// The index of the option with this key; 0 if there is none.
fn option_of(key: u32, first: usize, count: u32) -> u32 {
    for n in 0..count {
        if OPTION_KEYS[first + n as usize] == key {
            return n;
        }
    }
    0
}

/// Clamps a saved number to its bounds; the default if it is not finite.
fn clean_saved(value: f64, lo: f64, hi: f64, first: f64) -> f64 {
    if value.is_finite() { clamp(value, lo, hi) } else { first }
}

/// A checksum of all words of a save after its header.
fn save_sum(bytes: &[u8], size: usize) -> u32 {
    let mut sum: u32 = MARK;
    let mut at = HEAD;
    while at < size {
        sum = scramble(sum ^ word_at(bytes, at));
        at += 4;
    }
    sum
}

/// Restores each saved value from itself, for the self-test: nothing may change.
fn resave(run: &mut Run) {
    for field in 0..FIELDS {
        if MANY {
            let count = SAVE_HEADS[field] & COUNTS;
            for n in 0..count {
                take_saved(run, field, n as usize, saved_value(run, field, n as usize));
            }
        } else {
            take_saved(run, field, saved_value(run, field));
        }
    }
}

/// Writes a save of the run.
fn write_save(run: &Run, bytes: &mut [u8]) {
    put_word(bytes, 0, MARK);
    put_word(bytes, 4, VERSION);
    put_word(bytes, 8, LAYOUT);
    let mut at = HEAD;
    for field in 0..FIELDS {
        let head = SAVE_HEADS[field];
        put_word(bytes, at, SAVE_KEYS[field]);
        put_word(bytes, at + 4, head);
        at += 8;
        let count = head & COUNTS;
        let mut each = 4;
        if head >> 24 == NUMBERS {
            each = 8;
        }
        for n in 0..count {
            let place = at + each * n as usize;
            let value = if MANY { saved_value(run, field, n as usize) } else { saved_value(run, field) };
            if each == 8 {
                put_word(bytes, place, low_bits(value));
                put_word(bytes, place + 4, high_bits(value));
            } else {
                put_word(bytes, place, cell_index(value));
            }
        }
        at += each * count as usize;
    }
    put_word(bytes, 12, save_sum(bytes, at));
}

/// Whether the bytes are a complete save in this version of the format, with the right checksum.
fn is_save(bytes: &[u8], size: usize) -> bool {
    if size < HEAD || size % 4 != 0 {
        return false;
    }
    if word_at(bytes, 0) != MARK || word_at(bytes, 4) != VERSION {
        return false;
    }
    let mut at = HEAD;
    while at < size {
        if size - at < 8 {
            return false;
        }
        let head = word_at(bytes, at + 4);
        let mut each = 4;
        if head >> 24 == NUMBERS {
            each = 8;
        }
        let count = (head & COUNTS) as usize;
        at += 8;
        if count > (size - at) / each {
            return false;
        }
        at += each * count;
    }
    word_at(bytes, 12) == save_sum(bytes, size)
}

/// Restarts the run and restores all fields that the save has. Returns the number of fields in the save that this file
/// lacks or has fewer of.
fn read_save(run: &mut Run, bytes: &[u8], size: usize) -> u32 {
    restart(run, SEED);
    let mut dropped: u32 = 0;
    let mut at = HEAD;
    while at < size {
        let key = word_at(bytes, at);
        let head = word_at(bytes, at + 4);
        let mut each = 4;
        if head >> 24 == NUMBERS {
            each = 8;
        }
        let count = head & COUNTS;
        at += 8;
        let mut kept: u32 = 0;
        for field in 0..FIELDS {
            if SAVE_KEYS[field] == key && SAVE_HEADS[field] >> 24 == head >> 24 {
                let own = SAVE_HEADS[field] & COUNTS;
                kept = if own < count { own } else { count };
                for n in 0..kept {
                    let place = at + each * n as usize;
                    let low = word_at(bytes, place);
                    let mut value = f64::from(low);
                    if each == 8 {
                        value = from_bits(word_at(bytes, place + 4), low);
                    }
                    if MANY {
                        take_saved(run, field, n as usize, value);
                    } else {
                        take_saved(run, field, value);
                    }
                }
                break;
            }
        }
        if LEAVES {
            for n in 0..UNUSED {
                if SAVE_UNUSED[n] == key {
                    kept = count;
                }
            }
        }
        if kept < count {
            dropped = dropped.wrapping_add(1);
        }
        at += each * count as usize;
    }
    dropped
}
