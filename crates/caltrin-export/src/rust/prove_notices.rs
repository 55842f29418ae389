        let (mut sum, mut n) = (0.0, 0.0);
        while let Some(notice) = run.take_notice() {
            n += 1.0;
            sum += notice.moment * n;
            sum += f64::from(notice.lamp) * 3.0;
            for part in notice.position {
                sum += f64::from(part);
            }
            sum += VALUE;
            for text in [notice.name, notice.text, notice.from] {
                for byte in text.bytes() {
                    sum += f64::from(byte);
                }
            }
        }
        put(sum as f32);
        put(run.dropped_notices() as f32);
