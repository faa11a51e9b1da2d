/* The two-oscillator voice of fused.py, written by hand as one loop: what a patch could cost at best.

   The formulas are those of the modules (band-limited tables, matched filter sections, curved envelope stages); the
   difference is that nothing here can be connected in another way. */

#include <math.h>

typedef struct {
    double s1, s2, c0, c1, c2, w0, w1, w2;
} section;

typedef struct {
    int stage; /* 0 rest, 1 attack, 2 decay, 3 sustain, 4 release */
    double level, progress, remainder, from, attack, decay, sustain, release;
} envelope;

static const double BEND = 4.0;

static double squared_sine(double angle) {
    double half = sin(0.5 * angle);
    return half * half;
}

static void tune(section *s, double angle, double phi1, double damping) {
    double half = 0.5 * damping, fall = exp(-half * angle);
    double turn = squared_sine(angle * sqrt(1.0 - half * half));
    double a2 = fall * fall;
    double at_dc = (1.0 - fall) * (1.0 - fall) + 4.0 * fall * turn;
    double at_top = (1.0 + fall) * (1.0 + fall) - 4.0 * fall * turn;
    double g = sqrt(at_dc / at_top), twice = 2.0 / (at_top * g), phi0 = 1.0 - phi1;
    double bottom = at_dc * at_dc * phi0 + at_top * at_top * phi1 - 16.0 * a2 * phi0 * phi1;
    double rest = (bottom / (damping * damping) - at_dc * at_dc * phi0) / phi1;
    double b0 = 0.5 * (at_dc + sqrt(rest > 0.0 ? rest : 0.0)), b1 = at_dc - b0;
    double low = (b0 + b1) / at_dc, band = twice * b0, high = (b0 - b1) / at_top;
    s->c0 = 0.25 * at_top;
    s->c1 = s->c0 * g;
    s->c2 = g;
    s->w0 = high;
    s->w1 = band - high * twice * (1.0 - a2);
    s->w2 = low - high;
}

static double filtered(section *s, double x) {
    double band = s->c0 * s->s1 + s->c1 * (x - s->s2);
    double lift = s->c2 * band, low = s->s2 + lift;
    s->s1 = band + band - s->s1;
    s->s2 = low + lift;
    return s->w0 * x + s->w1 * band + s->w2 * low;
}

static double moved(envelope *e, double rate) {
    double way = (1.0 - e->remainder) / (1.0 - exp(-BEND));
    double time = 0.0;
    if (e->stage == 1 && e->progress >= 1.0) {
        e->stage = 2;
        e->progress = (e->progress - 1.0) * e->attack / e->decay;
        e->remainder = exp(-BEND * e->progress);
        way = (1.0 - e->remainder) / (1.0 - exp(-BEND));
    }
    if (e->stage == 2 && e->progress >= 1.0) e->stage = 3;
    if (e->stage == 4 && e->progress >= 1.0) e->stage = 0;
    switch (e->stage) {
    case 1: e->level = way; time = e->attack; break;
    case 2: e->level = e->sustain + (1.0 - e->sustain) * (1.0 - way); time = e->decay; break;
    case 3: e->level = e->sustain; break;
    case 4: e->level = e->from * (1.0 - way); time = e->release; break;
    default: e->level = 0.0;
    }
    if (time > 0.0) {
        double step = 1.0 / (time * rate);
        e->progress += step;
        e->remainder *= exp(-BEND * step);
    }
    return e->level;
}

static double table_at(const double *table, int size, double phase) {
    double at = phase * size;
    int whole = (int)at;
    return table[whole] + (at - whole) * (table[whole + 1] - table[whole]);
}

/* Play `count` samples of a note that is let go after `held` samples; times holds attack, decay, sustain and release
   of the cutoff's envelope, then of the amplifier's. */
void play(double *out, int count, int held, double rate, double saw_hz, double square_hz, const double *saw_table,
          int saw_size, const double *square_table, int square_size, double cutoff_hz, double octaves,
          double broad, double sharp, const double *times) {
    envelope bright = {1, 0, 0, 1, 0, times[0], times[1], times[2], times[3]};
    envelope loud = {1, 0, 0, 1, 0, times[4], times[5], times[6], times[7]};
    section first = {0}, second = {0};
    double saw_phase = 0.0, square_phase = 0.0, last = -1.0;
    for (int i = 0; i < count; i++) {
        if (i == held) {
            bright.stage = loud.stage = 4;
            bright.from = bright.level, loud.from = loud.level;
            bright.progress = loud.progress = 0.0;
            bright.remainder = loud.remainder = 1.0;
        }
        double saw = table_at(saw_table, saw_size, saw_phase);
        double before = square_phase - 0.5;
        double square = table_at(square_table, square_size, before < 0.0 ? before + 1.0 : before) -
                        table_at(square_table, square_size, square_phase);
        double cutoff = cutoff_hz * exp2(octaves * moved(&bright, rate));
        if (cutoff != last) {
            double angle = 2.0 * M_PI * fmin(cutoff, 22000.0) / rate, phi1 = squared_sine(angle);
            last = cutoff;
            tune(&first, angle, phi1, broad);
            tune(&second, angle, phi1, sharp);
        }
        out[i] = filtered(&second, filtered(&first, 0.5 * saw + 0.5 * square)) * moved(&loud, rate);
        saw_phase += saw_hz / rate;
        saw_phase -= floor(saw_phase);
        square_phase += square_hz / rate;
        square_phase -= floor(square_phase);
    }
}
