        {
            BOOK_notice notice;
            double sum = 0.0, n = 0.0;
            while (BOOK_take_notice(&run, &notice)) {
                const char *const all[3] = {notice.name, notice.text, notice.from};
                const char *c;
                int k;
                n += 1.0;
                sum += notice.moment * n;
                sum += notice.lamp * 3.0;
                for (k = 0; k < 3; ++k) sum += (double)notice.position[k];
                sum += VALUE;
                for (k = 0; k < 3; ++k) for (c = all[k]; *c; ++c) sum += (unsigned char)*c;
            }
            put(out, (float)sum);
            put(out, (float)BOOK_dropped_notices(&run));
        }
