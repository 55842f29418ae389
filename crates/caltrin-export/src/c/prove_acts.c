        for (int act = 0; act < ACTS; ++act) {
            const double to = asked.acts[act][2], when = asked.acts[act][1];
            BOOK_advance(&run, when);
            if (asked.acts[act][0] == 1.0) BOOK_set_clock(&run, to);
            if (asked.acts[act][0] == 2.0) BOOK_drive_clock(&run, to);
            if (asked.acts[act][0] == 3.0) BOOK_set_clock_days(&run, to);
            if (asked.acts[act][0] == 4.0) BOOK_set_clock_rate(&run, to);
            /* CHOICES */
            (void)to;
        }
