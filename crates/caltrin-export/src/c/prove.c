#include BOOK_H

#include <stdio.h>
#include <stdlib.h>

static void put(FILE *out, float value)
{
    if (fwrite(&value, sizeof value, 1, out) != 1) exit(3);
}

int main(int argc, char **argv)
{
    FILE *in, *out;
    static struct { double moment; uint64_t seed; /* INPUTS */ } asked;
    if (argc < 3) return BOOK_self_test() != 0;
    in = fopen(argv[1], "rb");
    out = fopen(argv[2], "wb");
    if (!in || !out) return 2;
    while (fread(&asked, sizeof asked, 1, in) == 1) {
        static BOOK_run run;
        /* Else it goes on from where it was. */
        if (asked.seed >> 32 == 0) run = BOOK_start((uint32_t)asked.seed);
/* SETS */
/* CLOCK */
        BOOK_advance(&run, asked.moment);
/* READS */
    }
    fclose(in);
    return fclose(out) != 0;
}
