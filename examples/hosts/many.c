/* Ten thousand sleeping trains from one run: the seed of each is set before its lamps are read, and each is placed by
   its own transform.

   caltrin export siding.caltrin --to c -o generated
   cc -std=c99 -O2 -I generated many.c -lm -o many
*/
#include "harbor_siding.h"

#include <stdio.h>

enum { TRAINS = 10000, WINDOW = 7 };

/* Where a train stands and how it is turned about the vertical axis. */
typedef struct placement {
    float x, z, cosine, sine;
} placement;

static void place(const placement *at, const float local[3], float world[3])
{
    world[0] = at->x + at->cosine * local[0] + at->sine * local[2];
    world[1] = local[1];
    world[2] = at->z - at->sine * local[0] + at->cosine * local[2];
}

int main(void)
{
    harbor_siding_run shared = harbor_siding_start(17u);
    int alike = 0, lit = 0;
    float farthest = 0.0f;
    harbor_siding_advance(&shared, 83.25);
    for (uint32_t train = 0; train < TRAINS; ++train) {
        /* Turned by multiples of 0.6 and 0.8. */
        const placement at = {8.0f * (float)(train % 100u), 30.0f * (float)(train / 100u), 0.6f, 0.8f};
        harbor_siding_run own = harbor_siding_start(train);
        harbor_siding_window shown, wanted;
        float world[3];
        shared.seed = train;
        shown = harbor_siding_read_window(&shared, WINDOW);
        harbor_siding_advance(&own, 83.25);
        wanted = harbor_siding_read_window(&own, WINDOW);
        alike += shown.intensity == wanted.intensity && shown.color[0] == wanted.color[0];
        lit += shown.intensity > 1.0f;
        place(&at, shown.position, world);
        if (world[2] > farthest) farthest = world[2];
    }
    printf("%d of %d alike, %d lit, the farthest at %.1f m\n", alike, TRAINS, lit, (double)farthest);
    return alike != TRAINS;
}
