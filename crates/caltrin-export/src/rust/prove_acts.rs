        for act in 0..ACTS {
            let act = |n: usize| double(16 + 8 * (SLOTS + 3 * act + n));
            run.advance(act(1));
            match act(0) as u32 {
                1 => run.set_clock(act(2)),
                2 => run.drive_clock(act(2)),
                3 => run.set_clock_days(act(2)),
                4 => run.set_clock_rate(act(2)),
                // CHOICES
                _ => {}
            }
        }
