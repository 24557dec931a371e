/*
 * Effects of core/src/effects once more in C, as far as they are short to write, for the bench: the same
 * algorithms at their defaults, with a value of each parameter for each frame, stereo, in double precision.
 * Prints “effect <id>” and nanoseconds a frame, the best of several rounds as in the bench.
 */
#include <stdio.h>

#include "half-band.h"

enum { RING = 16384, TAPS = 8, PHASES = 1024, SINE = 4096 };
#define RATE 48000.0
#define TAU 6.283185307179586

static float in_l[BLOCK], in_r[BLOCK], out_l[BLOCK], out_r[BLOCK];
static double table[(PHASES + 1) * TAPS], sines[SINE + 1];

/** A parameter with a value for each frame. */
typedef double Param[BLOCK];
static Param hz_700, percent_60, rate_03, percent_40, percent_25, percent_50, percent_100, percent_80, zero, one;
static Param threshold, gain_6, gain_12, hz_40, ms_1_2, tenth, cents_20, percent_30, cents_4;
static Param rate_015, rate_055, rate_9;

static double sine_of(double x) {
  const double at = (x - floor(x)) * SINE;
  const int i = at;
  return sines[i] + (at - i) * (sines[i + 1] - sines[i]);
}
/* core/src/dsp/math.ts: tanPi */
static double tan_pi(double x) {
  const int high = x > 0.25;
  const double y = (high ? 0.5 - x : x) * M_PI, z = y * y;
  const double top = y * (945 + z * (z - 105)), bottom = 945 + z * (15 * z - 420);
  return high ? bottom / top : top / bottom;
}

/* ---- phaser.ts, six stages ---- */
static void phaser(void) {
  static double stages[2][12], last[2], phase;
  for (int i = 0; i < BLOCK; i++) {
    phase += rate_03[i] / RATE;
    for (int c = 0; c < 2; c++) {
      const double hz = hz_700[i] * exp2(2 * percent_60[i] * sine_of(phase - c * percent_25[i]));
      const double g = tan_pi(hz > 0.45 * RATE ? 0.45 : hz / RATE), a = g / (1 + g);
      const double x = c ? in_r[i] : in_l[i];
      double v = x + percent_40[i] * last[c];
      for (int k = 0; k < 6; k++) {
        const double u = (v - stages[c][k]) * a, low = u + stages[c][k];
        stages[c][k] = low + u;
        v = 2 * low - v;
      }
      last[c] = v;
      const float y = x + (v - x) * percent_50[i];
      if (c) out_r[i] = y;
      else out_l[i] = y;
    }
  }
  phase -= floor(phase);
}

/* ---- resonators.ts with loop-string.ts, four voices ---- */
static void resonators(void) {
  enum { VOICES = 4, SIZE = 8192 };
  static const double notes[VOICES] = {50, 57, 62, 65};
  static double rings[2 * VOICES][SIZE + TAPS], lows[2 * VOICES];
  static int head;
  double sums[2][BLOCK] = {{0}}, hz[BLOCK], feedback[BLOCK], wet[BLOCK];
  const double w = 1 - exp(-TAU * 6000 / RATE);
  for (int v = 0; v < VOICES; v++) {
    for (int i = 0; i < BLOCK; i++) {
      hz[i] = 440 * exp2((notes[v] + zero[i] - 69) / 12);
      feedback[i] = exp2(-9.965784284662087 / (hz[i] * one[i]));
    }
    for (int c = 0; c < 2; c++) {
      double *ring = rings[2 * v + c], low = lows[2 * v + c];
      const float *x = c ? in_r : in_l;
      for (int i = 0, h = head; i < BLOCK; i++, h = (h + 1) & (SIZE - 1)) {
        double back = RATE / hz[i] - 1.2;
        const double whole = floor(back);
        const double *t = table + (int)((1 - (back - whole)) * PHASES + 0.5) * TAPS;
        const int j = h - (int)whole - 4;
        double s = 0;
        for (int k = 0; k < TAPS; k++) s += t[k] * ring[(j + k) & (SIZE - 1)];
        low += w * (s - low);
        double z = x[i] + feedback[i] * low;
        if (z > 0.7) z = 0.7 + (z - 0.7) / (0.3 + z);
        else if (z < -0.7) z = -0.7 + (z + 0.7) / (0.3 - z);
        ring[h] = z;
        wet[i] = z;
      }
      lows[2 * v + c] = low;
      const double place = 2.0 * v / (VOICES - 1) - 1;
      for (int i = 0; i < BLOCK; i++) {
        const double at = place * percent_60[i] * (c ? -1 : 1);
        sums[c][i] += wet[i] * one[i] * (at > 0 ? 1 - at : 1) * 0.5;
      }
    }
  }
  head = (head + BLOCK) & (SIZE - 1);
  for (int i = 0; i < BLOCK; i++) {
    out_l[i] = sums[0][i];
    out_r[i] = sums[1][i];
  }
}

/* ---- vowel.ts: two cuts and five peaks at rest ---- */
static void cut(double *left, double *right, double hz, double *s, int high) {
  const double k = M_SQRT2, g = tan_pi(hz / RATE), d = 1 / (1 + g * (g + k));
  for (int i = 0; i < BLOCK; i++) {
    const double lv = d * (s[0] + g * (left[i] - s[1])), rv = d * (s[2] + g * (right[i] - s[3]));
    const double ll = s[1] + g * lv, rl = s[3] + g * rv;
    s[0] = 2 * lv - s[0];
    s[2] = 2 * rv - s[2];
    s[1] = 2 * ll - s[1];
    s[3] = 2 * rl - s[3];
    left[i] = high ? left[i] - k * lv - ll : ll;
    right[i] = high ? right[i] - k * rv - rl : rl;
  }
}
static void vowel(void) {
  static const double hz[5] = {600, 1200, 2500, 3500, 4500}, heights[5] = {24, 20, 18, 12, 8};
  static double cuts[2][4], states[5][4];
  double left[BLOCK], right[BLOCK];
  for (int i = 0; i < BLOCK; i++) {
    left[i] = in_l[i];
    right[i] = in_r[i];
  }
  cut(left, right, 100, cuts[0], 1);
  for (int n = 0; n < 5; n++) {
    const double g = tan_pi(hz[n] / RATE), width = 60 + 0.045 * hz[n];
    double l1 = states[n][0], l2 = states[n][1], r1 = states[n][2], r2 = states[n][3];
    for (int i = 0; i < BLOCK; i++) {
      const double a = exp2(heights[n] * percent_100[i] * 0.08304820237218406);
      const double k = width * one[i] / (hz[n] * a), m = k * (a * a - 1), d = 1 / (1 + g * (g + k));
      const double lv = d * (l1 + g * (left[i] - l2)), rv = d * (r1 + g * (right[i] - r2));
      l1 = 2 * lv - l1;
      l2 += 2 * g * lv;
      r1 = 2 * rv - r1;
      r2 += 2 * g * rv;
      left[i] += m * lv;
      right[i] += m * rv;
    }
    states[n][0] = l1;
    states[n][1] = l2;
    states[n][2] = r1;
    states[n][3] = r2;
  }
  cut(left, right, 7000, cuts[1], 0);
  for (int i = 0; i < BLOCK; i++) {
    const double down = exp2(-percent_100[i]);
    out_l[i] = left[i] * down + in_l[i] * zero[i];
    out_r[i] = right[i] * down + in_r[i] * zero[i];
  }
}

/* ---- stereo.ts, nothing mono ---- */
static void stereo(void) {
  for (int i = 0; i < BLOCK; i++) {
    const double w = one[i], l = in_l[i], r = in_r[i], at = zero[i];
    const double m = 0.5 * (l + r) * one[i] * fmin(1, 2 - w), s = 0.5 * (l - r) * one[i] * fmin(1, w);
    out_l[i] = (m + s) * fmin(1, 1 - at);
    out_r[i] = (m - s) * fmin(1, 1 + at);
  }
}

/* ---- limiter.ts with true-peak.ts and running-minimum.ts ---- */
static void limiter(void) {
  enum { AHEAD = 72, DELAY = 34, WINDOW = AHEAD + 2, SIZE = 256 };
  static const Fir stages[3] = {{32}, {5}, {4}};
  static Line work[2][3];
  static double rings[2][SIZE], held[SIZE], gain = 1, sum = AHEAD, values[SIZE];
  static long places[SIZE], count;
  static int head, first, end;
  double x[2][BLOCK], y1[2 * BLOCK], y2[4 * BLOCK], y3[8 * BLOCK], peaks[BLOCK] = {0};
  const double pole = exp(-1 / (0.1 * RATE));
  for (int i = 0; i < BLOCK; i++) {
    rings[0][(head + i) & (SIZE - 1)] = x[0][i] = in_l[i] * one[i];
    rings[1][(head + i) & (SIZE - 1)] = x[1][i] = in_r[i] * one[i];
  }
  for (int c = 0; c < 2; c++) {
    raise_rate(&stages[0], work[c][0], x[c], y1, BLOCK);
    raise_rate(&stages[1], work[c][1], y1, y2, 2 * BLOCK);
    raise_rate(&stages[2], work[c][2], y2, y3, 4 * BLOCK);
    for (int i = 0; i < BLOCK; i++)
      for (int k = 0; k < 8; k++) peaks[i] = fmax(peaks[i], fabs(y3[8 * i + k]));
  }
  for (int i = 0; i < BLOCK; i++) {
    const double v = fmin(1, 0.9 * one[i] / fmax(1e-9, peaks[i]));
    while (end != first && values[(end - 1) & (SIZE - 1)] >= v) end = (end - 1) & (SIZE - 1);
    values[end] = v;
    places[end] = count;
    end = (end + 1) & (SIZE - 1);
    if (places[first] <= count - WINDOW) first = (first + 1) & (SIZE - 1);
    count++;
    const double lowest = values[first];
    gain = lowest < gain ? lowest : lowest + pole * (gain - lowest);
    sum += gain - held[(head - AHEAD) & (SIZE - 1)];
    held[head] = gain;
    const double g = sum / AHEAD;
    const int from = (head - AHEAD - DELAY) & (SIZE - 1);
    out_l[i] = rings[0][from] * g;
    out_r[i] = rings[1][from] * g;
    head = (head + 1) & (SIZE - 1);
  }
}

/* ---- vocoder.ts, twenty bands ---- */
static void vocoder(void) {
  enum { BANDS = 20 };
  static double states[BANDS][12], levels[BANDS], high, whole, low;
  static unsigned seed = 1;
  double shaping[BLOCK], left[BLOCK], right[BLOCK], level[BLOCK], sum_l[BLOCK] = {0}, sum_r[BLOCK] = {0};
  const double pole = exp(-1 / (0.01 * RATE)), attack = exp(-1 / (0.004 * RATE)), release = exp(-1 / (0.04 * RATE));
  for (int i = 0; i < BLOCK; i++) {
    const double x = shaping[i] = 0.5 * (in_l[i] + in_r[i]);
    low += 0.41 * (x - low);
    const double h = x - low;
    high = h * h + pole * (high - h * h);
    whole = x * x + pole * (whole - x * x);
    const double share = whole > 1e-9 ? (high / whole - 0.25) * 2.5 : 0;
    const double hiss = percent_50[i] * (share < 0 ? 0 : share > 1 ? 1 : share);
    seed = seed * 1664525 + 1013904223;
    const double n = ((int)seed / 2147483648.0) * 0.4 * hiss;
    left[i] = in_l[i] * (1 - hiss) + n;
    right[i] = in_r[i] * (1 - hiss) + n;
  }
  const double octaves = log2(100) / (BANDS - 1);
  const double k = 1.1 * (exp2(0.5 * octaves) - exp2(-0.5 * octaves)) * 1.5537739740300374;
  for (int b = 0; b < BANDS; b++) {
    const double g = tan_pi(90 * exp2(b * octaves) / RATE), d = 1 / (1 + g * (g + k));
    double *s = states[b], v = levels[b];
    for (int i = 0; i < BLOCK; i++) {
      const double u = d * (s[0] + g * (shaping[i] - s[1]));
      s[0] = 2 * u - s[0];
      s[1] += 2 * g * u;
      const double w = d * (s[2] + g * (k * u - s[3]));
      s[2] = 2 * w - s[2];
      s[3] += 2 * g * w;
      const double y = fabs(k * w);
      level[i] = v = y + (y > v ? attack : release) * (v - y);
    }
    levels[b] = v;
    for (int c = 0; c < 2; c++) {
      const double *x = c ? right : left;
      double *sum = c ? sum_r : sum_l, *t = s + 4 + 4 * c;
      double a1 = t[0], a2 = t[1], b1 = t[2], b2 = t[3];
      for (int i = 0; i < BLOCK; i++) {
        const double u = d * (a1 + g * (x[i] - a2));
        a1 = 2 * u - a1;
        a2 += 2 * g * u;
        const double w = d * (b1 + g * (k * u - b2));
        b1 = 2 * w - b1;
        b2 += 2 * g * w;
        sum[i] += k * w * level[i];
      }
      t[0] = a1;
      t[1] = a2;
      t[2] = b1;
      t[3] = b2;
    }
  }
  for (int i = 0; i < BLOCK; i++) {
    out_l[i] = sum_l[i] * 36 * one[i];
    out_r[i] = sum_r[i] * 36 * one[i];
  }
}

/* ---- delay-line.ts, as chorus.ts, flanger.ts and frequency-shift.ts use it ---- */
typedef struct { float left[RING + TAPS], right[RING + TAPS]; int head; } Ring;
static void write_line(Ring *d, const double *left, const double *right) {
  for (int i = 0; i < BLOCK; i++) {
    d->left[d->head + i] = left[i];
    d->right[d->head + i] = right[i];
  }
  if (d->head < TAPS) {
    memcpy(d->left + RING, d->left, TAPS * sizeof(float));
    memcpy(d->right + RING, d->right, TAPS * sizeof(float));
  }
  d->head = (d->head + BLOCK) & (RING - 1);
}
static void read_line(const Ring *d, const double *times, double *restrict left, double *restrict right) {
  for (int i = 0; i < BLOCK; i++) {
    const double whole = floor(times[i]);
    const double *w = table + (int)((1 - (times[i] - whole)) * PHASES + 0.5) * TAPS;
    const int j = (d->head + i - (int)whole - 4) & (RING - 1);
    double l = 0, r = 0;
    for (int k = 0; k < TAPS; k++) {
      l += w[k] * d->left[j + k];
      r += w[k] * d->right[j + k];
    }
    left[i] = l;
    right[i] = r;
  }
}

static void chorus(void) {
  static Ring line;
  static double phases[4];
  double x[BLOCK], y[BLOCK], times[BLOCK], left[BLOCK], right[BLOCK], sum_l[BLOCK] = {0}, sum_r[BLOCK] = {0};
  double depths[BLOCK], steps[BLOCK], leasts[BLOCK];
  for (int i = 0; i < BLOCK; i++) {
    x[i] = in_l[i];
    y[i] = in_r[i];
    steps[i] = rate_03[i] / RATE;
    depths[i] = (exp2(percent_25[i] / 12) - 1) / (TAU * steps[i]);
    leasts[i] = 0.012 * one[i] * RATE - 4;
  }
  write_line(&line, x, y);
  for (int v = 0; v < 4; v++) {
    double phase = phases[v];
    for (int i = 0; i < BLOCK; i++) {
      times[i] = 0.012 * one[i] * RATE + fmin(leasts[i], depths[i]) * sine_of(phase + v / 4.0 + zero[i]) + BLOCK;
      phase += steps[i];
    }
    phases[v] = phase - floor(phase);
    read_line(&line, times, left, right);
    for (int i = 0; i < BLOCK; i++) {
      const double at = (2.0 * v / 3 - 1) * percent_80[i];
      sum_l[i] += left[i] * (at > 0 ? 1 - at : 1);
      sum_r[i] += right[i] * (at < 0 ? 1 + at : 1);
    }
  }
  for (int i = 0; i < BLOCK; i++) {
    out_l[i] = 0.5 * sum_l[i];
    out_r[i] = 0.5 * sum_r[i];
  }
}

/* ---- flanger.ts, through zero, as a triangle ---- */
static void read_side(const Ring *d, const float *side, const double *times, double *restrict out) {
  for (int i = 0; i < BLOCK; i++) {
    const double whole = floor(times[i]);
    const double *w = table + (int)((1 - (times[i] - whole)) * PHASES + 0.5) * TAPS;
    const int j = (d->head + i - (int)whole - 4) & (RING - 1);
    double sum = 0;
    for (int k = 0; k < TAPS; k++) sum += w[k] * side[j + k];
    out[i] = sum;
  }
}
static double triangle_of(double x) {
  const double y = x + 0.25 - floor(x + 0.25);
  return 1 - 4 * fabs(y - 0.5);
}
static void flanger(void) {
  static Ring line, dry;
  static double phase;
  const int latency = 0.005 * RATE;
  double x[BLOCK], y[BLOCK], times_l[BLOCK], times_r[BLOCK], left[BLOCK], right[BLOCK], write_l[BLOCK], write_r[BLOCK];
  double times[BLOCK], dry_l[BLOCK], dry_r[BLOCK];
  double least = 1e9;
  for (int i = 0; i < BLOCK; i++) {
    const double middle = latency + (ms_1_2[i] + 0.005 * zero[i]) * RATE, depth = ms_1_2[i] * RATE;
    x[i] = in_l[i];
    y[i] = in_r[i];
    times_l[i] = fmax(4, middle + depth * triangle_of(phase));
    times_r[i] = fmax(4, middle + depth * triangle_of(phase - tenth[i]));
    times[i] = latency + BLOCK;
    phase += rate_015[i] / RATE;
    least = fmin(least, fmin(times_l[i], times_r[i]));
  }
  phase -= floor(phase);
  // at its defaults a whole block comes out before the first of it goes in again
  if (least < BLOCK) return;
  read_side(&line, line.left, times_l, left);
  read_side(&line, line.right, times_r, right);
  for (int i = 0; i < BLOCK; i++) {
    const double l = percent_30[i] * left[i], r = percent_30[i] * right[i];
    write_l[i] = x[i] + l / sqrt(1 + 0.05 * l * l);
    write_r[i] = y[i] + r / sqrt(1 + 0.05 * r * r);
  }
  write_line(&line, write_l, write_r);
  write_line(&dry, x, y);
  read_line(&dry, times, dry_l, dry_r);
  for (int i = 0; i < BLOCK; i++) {
    const double w = percent_50[i];
    out_l[i] = dry_l[i] * (1 - w) + left[i] * w;
    out_r[i] = dry_r[i] * (1 - w) + right[i] * w;
  }
}

/* ---- wow.ts, without jumps: the random lines of its wander go straight over a block ---- */
static double random_at(unsigned seed, unsigned at) {
  unsigned h = seed * 2654435761u ^ (at * 2246822519u);
  h = (h ^ h >> 15) * 2246822519u;
  h = (h ^ h >> 13) * 3266489917u;
  return (h ^ h >> 16) / 4294967296.0;
}
static double wander(unsigned seed, double x) {
  const double at = floor(x), t = x - at, a = random_at(seed, at), b = random_at(seed, at + 1);
  return 2 * (a + (b - a) * t * t * (3 - 2 * t)) - 1;
}
static void wow(void) {
  static Ring line;
  static double slow, fast, place;
  const double cent = log(2) / 1200, reach = 0.05 * RATE, latency = reach + 5;
  double x[BLOCK], y[BLOCK], times[BLOCK], left[BLOCK], right[BLOCK];
  const double to = place + 0.31 * rate_055[0] * BLOCK / RATE;
  const double unrest0 = wander(1, place), unrest1 = wander(1, to);
  const double shallow0 = wander(102, place), shallow1 = wander(102, to);
  place = to;
  for (int i = 0; i < BLOCK; i++) {
    const double t = (double)i / BLOCK, irregular = percent_40[i];
    const double rate = rate_055[i] * (1 + 0.6 * irregular * (unrest0 + (unrest1 - unrest0) * t));
    const double omega = TAU * rate / RATE, omega2 = TAU * rate_9[i] / RATE;
    double a = cents_20[i] * cent * (1 - 0.45 * irregular * (1 + shallow0 + (shallow1 - shallow0) * t));
    double want = a / omega;
    if (want > 0.72 * reach) {
      a *= 0.72 * reach / want;
      want = 0.72 * reach;
    }
    const double b = fmin(cents_4[i] * cent, 0.08 * reach * omega2);
    x[i] = in_l[i];
    y[i] = in_r[i];
    times[i] = latency + BLOCK + want * sine_of(slow + 0.25) + a * a / (8 * omega) * sine_of(2 * slow) +
               b / omega2 * sine_of(fast + 0.25) + b * b / (8 * omega2) * sine_of(2 * fast);
    slow += rate / RATE;
    fast += rate_9[i] / RATE;
  }
  slow -= floor(slow);
  fast -= floor(fast);
  write_line(&line, x, y);
  read_line(&line, times, left, right);
  for (int i = 0; i < BLOCK; i++) {
    out_l[i] = left[i];
    out_r[i] = right[i];
  }
}

/* ---- varispeed.ts at its own speed ---- */
static void varispeed(void) {
  static Ring line;
  static double behind, motor = 1, last, level = 1;
  double x[BLOCK], y[BLOCK], times[BLOCK], left[BLOCK], right[BLOCK], levels[BLOCK];
  for (int i = 0; i < BLOCK; i++) {
    x[i] = in_l[i];
    y[i] = in_r[i];
  }
  write_line(&line, x, y);
  for (int i = 0; i < BLOCK; i++) {
    motor = fmin(1, motor + 1 / (percent_40[i] * RATE));
    const double pull = motor == 1 ? 1 : motor == 0 ? 0 : exp2(1.32 * log2(motor));
    const double hand = zero[i] * percent_50[i] * RATE, moved = hand - last;
    last = hand;
    const double before = behind;
    behind = fmin(8 * RATE, fmax(0, behind + 1 - one[i] * pull + moved));
    const double speed = fabs(1 - behind + before), moves = speed >= 0.05 ? 1 : speed / 0.05;
    level += 0.002 * (moves - level);
    levels[i] = level;
    times[i] = behind + 20 + BLOCK;
  }
  read_line(&line, times, left, right);
  for (int i = 0; i < BLOCK; i++) {
    out_l[i] = levels[i] * left[i];
    out_r[i] = levels[i] * right[i];
  }
}

/* ---- frequency-shift.ts, and hilbert.ts with both sides of a frame beside each other ---- */
enum { ALL_PASSES = 12 };
static void all_pass(double (*restrict x)[2], double a, double (*m)[2]) {
  for (int side = 0; side < 2; side++) {
    double x1 = m[0][side], x2 = m[1][side], y1 = m[2][side], y2 = m[3][side];
    for (int i = 0; i < BLOCK; i++) {
      const double y = a * (x[i][side] + y2) - x2;
      x2 = x1;
      x1 = x[i][side];
      y2 = y1;
      y1 = y;
      x[i][side] = y;
    }
    m[0][side] = x1;
    m[1][side] = x2;
    m[2][side] = y1;
    m[3][side] = y2;
  }
}
static void frequency_shift(void) {
  static Ring line;
  static double phase, time = 2880, low_l, low_r, held[2], kept[ALL_PASSES][4][2];
  double real[BLOCK][2], imag[BLOCK][2], times[BLOCK], left[BLOCK], right[BLOCK], cosines[BLOCK], sine[BLOCK];
  for (int i = 0; i < BLOCK; i++) {
    phase += hz_40[i] / RATE;
    cosines[i] = sine_of(phase + 0.25);
    sine[i] = sine_of(phase);
    time += 0.001 * (fmax(5, 0.06 * one[i] * RATE) - time);
    times[i] = time;
  }
  phase -= floor(phase);
  read_line(&line, times, left, right);
  for (int i = 0; i < BLOCK; i++) {
    low_l += 0.84 * (left[i] - low_l);
    low_r += 0.84 * (right[i] - low_r);
    const double l = zero[i] * low_l, r = zero[i] * low_r;
    imag[i][0] = held[0];
    imag[i][1] = held[1];
    held[0] = real[i][0] = in_l[i] + l / sqrt(1 + 0.1 * l * l);
    held[1] = real[i][1] = in_r[i] + r / sqrt(1 + 0.1 * r * r);
  }
  for (int k = 0; k < ALL_PASSES; k += 2) {
    all_pass(real, 0.1 + 0.07 * k, kept[k]);
    all_pass(imag, 0.1 + 0.07 * (k + 1), kept[k + 1]);
  }
  for (int i = 0; i < BLOCK; i++) {
    left[i] = real[i][0] * cosines[i] - imag[i][0] * sine[i];
    right[i] = real[i][1] * cosines[i] - imag[i][1] * sine[i];
    out_l[i] = left[i];
    out_r[i] = right[i];
  }
  write_line(&line, left, right);
}

/* ---- reverb.ts: reverb-entry.ts without early reflections, then the feedback network ---- */
enum { LINES = 16, NET = 8192, MOVING = 4, PAST = 32768 };
static float past_l[PAST], past_r[PAST], diffusers[2][4][512], lines[LINES][NET + TAPS];
static void diffuse(float (*rings)[512], int *heads, const int *lengths, double *x) {
  for (int d = 0; d < 4; d++) {
    int h = heads[d];
    for (int i = 0; i < BLOCK; i++) {
      const double past = rings[d][h], v = x[i] - 0.624 * past;
      rings[d][h] = v < 1e-15 && v > -1e-15 ? 0 : v;
      x[i] = past + 0.624 * v;
      if (++h == lengths[d]) h = 0;
    }
    heads[d] = h;
  }
}
static void reverb(void) {
  static const int shorts[4] = {113, 191, 307, 433}, longs[4] = {121, 199, 315, 441};
  static const int times[LINES] = {857,  941,  1033, 1129, 1237, 1361, 1489, 1637,
                                   1801, 1973, 2161, 2371, 2593, 2843, 3121, 3413};
  static int head, at, heads[2][4];
  static double state[6], swings[MOVING], phases[MOVING], x1[LINES], a1[LINES], z1[LINES];
  static double y[BLOCK][LINES];
  double left[BLOCK], right[BLOCK], wet_l[BLOCK] = {0}, wet_r[BLOCK] = {0};
  for (int i = 0; i < BLOCK; i++) {
    past_l[head] = in_l[i] * one[i];
    past_r[head] = in_r[i] * one[i];
    const int back = (head - 576) & (PAST - 1);
    left[i] = past_l[back];
    right[i] = past_r[back];
    head = (head + 1) & (PAST - 1);
  }
  for (int i = 0; i < BLOCK; i++) {
    // the high cut is open, the colour that of a hall
    state[2] += 0.032 * (left[i] - state[2]);
    state[3] += 0.032 * (right[i] - state[3]);
    state[4] += 0.0104 * (left[i] - state[4]);
    state[5] += 0.0104 * (right[i] - state[5]);
    left[i] = (left[i] - state[4]) * 0.2;
    right[i] = (right[i] - state[5]) * 0.2;
  }
  diffuse(diffusers[0], heads[0], shorts, left);
  diffuse(diffusers[1], heads[1], longs, right);
  for (int k = 0; k < LINES; k++) {
    if (k < MOVING) {
      phases[k] += (0.31 + 0.17 * k) * BLOCK / RATE;
      phases[k] -= floor(phases[k]);
      const double t = phases[k] < 0.5 ? 4 * phases[k] - 1 : 3 - 4 * phases[k];
      const double to = 7.2 * (1 + t * (1.5 - 0.5 * t * t)), step = (swings[k] - to) / BLOCK;
      const double first = times[k] - 1 - swings[k];
      swings[k] = to;
      for (int i = 0; i < BLOCK; i++) {
        const double delay = first + step * i, whole = floor(delay);
        const double *w = table + (int)((1 - (delay - whole)) * PHASES + 0.5) * TAPS;
        const float *from = lines[k] + ((at + i - (int)whole - 4) & (NET - 1));
        double sum = 0;
        for (int n = 0; n < TAPS; n++) sum += w[n] * from[n];
        y[i][k] = sum;
      }
    } else
      for (int i = 0; i < BLOCK; i++) y[i][k] = lines[k][(at + i - times[k]) & (NET - 1)];
  }
  for (int i = 0; i < BLOCK; i++) {
    double *v = y[i];
    for (int k = 0; k < LINES; k += 2) {
      const double sign = k & 2 ? -1 : 1;
      wet_l[i] += sign * v[k];
      wet_r[i] += sign * v[k + 1];
    }
    for (int k = 0; k < LINES; k++) {
      const double a = 0.93 * v[k] - 0.91 * x1[k] + 0.98 * a1[k];
      z1[k] = 0.6 * a + 0.1 * a1[k] + 0.3 * z1[k];
      x1[k] = v[k];
      a1[k] = a;
      v[k] = z1[k];
    }
    for (int half = 1; half < LINES; half *= 2)
      for (int k = 0; k < LINES; k += 2 * half)
        for (int n = k; n < k + half; n++) {
          const double a = v[n], b = v[n + half];
          v[n] = a + b;
          v[n + half] = a - b;
        }
    for (int k = 0; k < LINES; k++) lines[k][at + i] = 0.25 * v[k] + (k & 1 ? right[i] : left[i]);
  }
  if (at < TAPS)
    for (int k = 0; k < LINES; k++) memcpy(lines[k] + NET, lines[k], TAPS * sizeof(float));
  at = (at + BLOCK) & (NET - 1);
  for (int i = 0; i < BLOCK; i++) {
    const double m = 0.5 * (wet_l[i] + wet_r[i]), d = 0.5 * (wet_l[i] - wet_r[i]) * one[i];
    out_l[i] = (m + d) * one[i];
    out_r[i] = (m - d) * one[i];
  }
}

/* ---- folder.ts and shaper.ts, eight times: oversampler.ts (sharp), second-antiderivative.ts ---- */
enum { CELLS = 2048, FAST = 8 * BLOCK };
static Fir sharp[3];
typedef struct { Line up[3], even[3], odd[3]; double x, y, last, half, held; } Shaped;
static double heights[CELLS + 1], firsts[CELLS + 1], seconds[CELLS + 1];

static inline void read_fold(double x, double *at) {
  const double t = x + 0.5, c = t < -4 ? -4 : t > 5 ? 5 : t, s = c - 2 * floor(0.5 * c), e = t - c;
  double value, first, second;
  if (s <= 1) {
    value = s - 0.5;
    first = 0.5 * s * (s - 1);
    second = s * s * (s / 6 - 0.25);
  } else {
    const double u = s - 1;
    value = 0.5 - u;
    first = 0.5 * u * (1 - u);
    second = u * u * (0.25 - u / 6) - 1.0 / 12;
  }
  at[0] = value;
  at[1] = first + value * e;
  at[2] = second + e * (first + 0.5 * value * e);
}
static inline void read_pieces(double x, double *into) {
  const double at = (x + 1) * CELLS / 2;
  const int k = at >= CELLS ? CELLS : at > 0 ? (int)at : 0;
  const double h = heights[k], u = x + 1 - k * 2.0 / CELLS;
  const double slope = at > 0 && at < CELLS ? (heights[k + 1] - h) * CELLS / 2 : 0;
  into[0] = h + slope * u;
  into[1] = firsts[k] + u * (h + 0.5 * slope * u);
  into[2] = seconds[k] + u * (firsts[k] + u * (0.5 * h + slope * u / 6));
}
static inline void smooth(Shaped *s, double *x, void (*read)(double, double *), double bottom, double top) {
  double last = s->last, half = s->half, held = s->held, at[3];
  read(last, at);
  double first = at[1], second = at[2];
  for (int i = 0; i < FAST; i++) {
    const double a = x[i], d = a - last;
    read(a, at);
    const double f1 = at[1], f2 = at[2];
    double whole, later;
    if ((a >= top && last >= top) || (a <= bottom && last <= bottom)) {
      whole = at[0];
      later = 0.5 * whole;
    } else if (d > 1e-4 || d < -1e-4) {
      const double r = 1 / d;
      whole = (f1 - first) * r;
      later = (f1 - (f2 - second) * r) * r;
    } else {
      read(last + 0.5 * d, at);
      whole = at[0];
      read(last + 2.0 / 3 * d, at);
      later = 0.5 * at[0];
    }
    x[i] = held;
    held = half + whole - later;
    half = later;
    last = a;
    first = f1;
    second = f2;
  }
  s->last = last;
  s->half = half;
  s->held = held;
}
static void raise_all(Shaped *s, const double *base, double *fast) {
  double twice[2 * BLOCK], more[4 * BLOCK];
  raise_rate(&sharp[0], s->up[0], base, twice, BLOCK);
  raise_rate(&sharp[1], s->up[1], twice, more, 2 * BLOCK);
  raise_rate(&sharp[2], s->up[2], more, fast, 4 * BLOCK);
}
static void lower_all(Shaped *s, const double *fast, double *base) {
  double twice[2 * BLOCK], more[4 * BLOCK];
  lower_rate(&sharp[2], s->even[2], s->odd[2], fast, more, 4 * BLOCK);
  lower_rate(&sharp[1], s->even[1], s->odd[1], more, twice, 2 * BLOCK);
  lower_rate(&sharp[0], s->even[0], s->odd[0], twice, base, BLOCK);
}
static void finish(Shaped *s, const double *base, const double *level, float *out) {
  for (int i = 0; i < BLOCK; i++) {
    s->y = base[i] - s->x + 0.99948 * s->y;
    s->x = base[i];
    out[i] = s->y * level[i];
  }
}
static void folder(void) {
  static Shaped sides[2];
  double base[BLOCK], fast[FAST];
  for (int c = 0; c < 2; c++) {
    const float *x = c ? in_r : in_l;
    for (int i = 0; i < BLOCK; i++)
      base[i] = (x[i] * gain_12[i] + zero[i] + threshold[i]) / (threshold[i] + threshold[i]) - 0.5;
    raise_all(&sides[c], base, fast);
    smooth(&sides[c], fast, read_fold, -4.5, 4.5);
    lower_all(&sides[c], fast, base);
    for (int i = 0; i < BLOCK; i++) base[i] = (threshold[i] + threshold[i]) * (base[i] + 0.5) - threshold[i];
    finish(&sides[c], base, percent_80, c ? out_r : out_l);
  }
}
static void shaper(void) {
  static Shaped sides[2];
  double base[BLOCK], fast[FAST], at[3];
  read_pieces(zero[0], at);
  for (int c = 0; c < 2; c++) {
    const float *x = c ? in_r : in_l;
    for (int i = 0; i < BLOCK; i++) base[i] = x[i] * gain_6[i] + zero[i];
    raise_all(&sides[c], base, fast);
    smooth(&sides[c], fast, read_pieces, -1, 1);
    for (int i = 0; i < FAST; i++) fast[i] -= at[0];
    lower_all(&sides[c], fast, base);
    finish(&sides[c], base, percent_80, c ? out_r : out_l);
  }
}

/* ---- delay.ts with delay-times.ts, one time for both sides, nothing in its loop but the cuts ---- */
static void delay(void) {
  static Ring line;
  static double time = 12000, low_l, low_r, high_l, high_r;
  double times[BLOCK], left[BLOCK], right[BLOCK], back_l[BLOCK], back_r[BLOCK], write_l[BLOCK], write_r[BLOCK];
  for (int i = 0; i < BLOCK; i++) {
    time += 0.002 * (percent_25[i] * RATE - time);
    times[i] = time;
  }
  read_line(&line, times, left, right);
  for (int i = 0; i < BLOCK; i++) {
    low_l += 0.0078 * (left[i] - low_l);
    low_r += 0.0078 * (right[i] - low_r);
    high_l += 0.69 * (left[i] - low_l - high_l);
    high_r += 0.69 * (right[i] - low_r - high_r);
    back_l[i] = high_l * percent_40[i];
    back_r[i] = high_r * percent_40[i];
    write_l[i] = in_l[i] * one[i] + back_l[i];
    write_r[i] = in_r[i] * one[i] + back_r[i];
    out_l[i] = left[i] * one[i];
    out_r[i] = right[i] * one[i];
  }
  write_line(&line, write_l, write_r);
}

/* ---- grains.ts: 0.09 s each, three at a time, at the speed of what comes in ---- */
typedef struct { int on; double place, age, left, right; } Grain;
static void grains(void) {
  static Ring line;
  static Grain voices[32];
  static double next, count;
  static unsigned begun;
  const double size = 0.09 * RATE;
  double x[BLOCK], y[BLOCK], times[BLOCK], left[BLOCK], right[BLOCK], sum_l[BLOCK] = {0}, sum_r[BLOCK] = {0};
  int starts[32] = {0};
  for (int i = 0; i < BLOCK; i++) {
    x[i] = in_l[i];
    y[i] = in_r[i];
  }
  write_line(&line, x, y);
  count += BLOCK;
  for (int i = 0; i < BLOCK; i++) {
    if (next-- > 0) continue;
    const unsigned n = begun++;
    next = fmax(8, size / 3 * (1 + percent_30[i] * (random_at(1, 8 * n) - 0.5))) - 1;
    int k = 0;
    while (k < 32 && voices[k].on) k++;
    if (k == 32) continue;
    const double pan = percent_60[i] * (2 * random_at(1, 8 * n + 4) - 1);
    const double level = 1 - cents_20[i] / 100 * random_at(1, 8 * n + 5);
    const double behind = 4000 + 2000 * random_at(1, 8 * n + 3);
    const double place = count - BLOCK + i - behind;
    voices[k] = (Grain){1, place, 0, level * (pan > 0 ? 1 - pan : 1), level * (pan < 0 ? 1 + pan : 1)};
    starts[k] = i;
  }
  for (int k = 0; k < 32; k++) {
    Grain *v = &voices[k];
    if (!v->on) continue;
    const int first = starts[k], last = fmin(BLOCK, first + ceil(size - v->age));
    for (int i = first; i < last; i++) times[i] = fmax(5, count - BLOCK + i - v->place - (i - first) + BLOCK);
    for (int i = 0; i < first; i++) times[i] = 5;
    for (int i = last; i < BLOCK; i++) times[i] = 5;
    read_line(&line, times, left, right);
    double t = v->age / size;
    for (int i = first; i < last; i++) {
      const double w = 0.5 - 0.5 * sine_of(t + 0.25);
      sum_l[i] += 0.75 * v->left * w * left[i];
      sum_r[i] += 0.75 * v->right * w * right[i];
      t += 1 / size;
    }
    v->place += last - first;
    v->age += last - first;
    if (v->age >= size) v->on = 0;
  }
  for (int i = 0; i < BLOCK; i++) {
    out_l[i] = sum_l[i];
    out_r[i] = sum_r[i];
  }
}

/* ---- taps.ts, its six taps without filter, comb or pitch ---- */
static void taps(void) {
  enum { COUNT = 6, LONG = 1 << 22 };
  static float ring[2][LONG + TAPS];
  static double back[2][BLOCK], low[2], high[2];
  static int head;
  double sums[2][BLOCK] = {{0}}, shares[2][BLOCK] = {{0}}, read[2][BLOCK], levels[COUNT], all = 0;
  const double a = 1 - exp(-TAU * 60 / RATE), b = 1 - exp(-TAU * 9000 / RATE);
  for (int c = 0; c < 2; c++) {
    const float *x = c ? in_r : in_l;
    for (int i = 0; i < BLOCK; i++) {
      low[c] += a * (back[c][i] - low[c]);
      high[c] += b * (back[c][i] - low[c] - high[c]);
      const double d = one[i], y = high[c] * zero[i];
      ring[c][head + i] = x[i] * percent_100[i] + y / sqrt(1 + 0.25 * d * d * y * y);
    }
    if (head < TAPS) memcpy(ring[c] + LONG, ring[c], TAPS * sizeof(float));
  }
  head = (head + BLOCK) & (LONG - 1);
  for (int k = 0; k < COUNT; k++) all += levels[k] = exp2(-0.5 * k);
  for (int k = 0; k < COUNT; k++) {
    const double place = k % 2 ? 0.6 : -0.6, share = levels[k] / all, time = 51234.37 * (k + 1) / COUNT;
    const double to[2] = {levels[k] * (place > 0 ? 1 - place : 1), levels[k] * (place < 0 ? 1 + place : 1)};
    for (int i = 0; i < BLOCK; i++) {
      const double at = time + zero[i] * (i + 1) + BLOCK, whole = floor(at);
      const double *w = table + (int)((1 - (at - whole)) * PHASES + 0.5) * TAPS;
      const int j = (head + i - (int)whole - 4) & (LONG - 1);
      double l = 0, r = 0;
      for (int n = 0; n < TAPS; n++) {
        l += w[n] * ring[0][j + n];
        r += w[n] * ring[1][j + n];
      }
      read[0][i] = l;
      read[1][i] = r;
    }
    for (int c = 0; c < 2; c++)
      for (int i = 0; i < BLOCK; i++) {
        shares[c][i] += share * read[c][i];
        sums[c][i] += read[c][i] * (to[c] + zero[i] * (i + 1));
      }
  }
  memcpy(back, shares, sizeof back);
  for (int i = 0; i < BLOCK; i++) {
    out_l[i] = sums[0][i];
    out_r[i] = sums[1][i];
  }
}

static double sink;
static void measure(const char *name, void (*f)(void)) {
  double best = 1e300;
  for (int round = 0; round < 9; round++) {
    const double start = now();
    for (int n = 0; n < 600; n++) {
      f();
      sink += out_l[n % BLOCK];
    }
    const double each = (now() - start) / 600 / BLOCK;
    if (each < best) best = each;
  }
  printf("effect %s\t%.3f\n", name, best);
}

static void fill(double *p, double value) {
  for (int i = 0; i < BLOCK; i++) p[i] = value;
}

int main(void) {
  unsigned x = 1;
  for (int i = 0; i < BLOCK; i++) {
    x = x * 1664525 + 1013904223;
    in_l[i] = (int)x / 4294967296.0;
    in_r[i] = 0.4 * sin(TAU * i / 64);
  }
  for (int i = 0; i <= SINE; i++) sines[i] = sin(TAU * i / SINE);
  for (int i = 0; i < (PHASES + 1) * TAPS; i++) table[i] = sin(i) / TAPS;
  fill(hz_700, 700);
  fill(percent_60, 0.6);
  fill(rate_03, 0.3);
  fill(percent_40, 0.4);
  fill(percent_25, 0.25);
  fill(percent_50, 0.5);
  fill(percent_100, 1);
  fill(percent_80, 0.8);
  fill(zero, 0);
  fill(one, 1);
  half_band(&sharp[0], 30, 13);
  half_band(&sharp[1], 9, 13);
  half_band(&sharp[2], 5, 12);
  for (int k = 0; k <= CELLS; k++) heights[k] = 0.88 * sin(M_PI * (k - CELLS / 2) / CELLS);
  for (int k = 0; k < CELLS; k++) {
    firsts[k + 1] = firsts[k] + (heights[k] + heights[k + 1]) / CELLS;
    seconds[k + 1] = seconds[k] + (firsts[k] + (2 * heights[k] + heights[k + 1]) / 3 / CELLS) * 2 / CELLS;
  }
  fill(threshold, 0.7);
  fill(gain_6, 2);
  fill(gain_12, 4);
  fill(hz_40, 40);
  fill(ms_1_2, 0.0012);
  fill(tenth, 0.1);
  fill(cents_20, 20);
  fill(percent_30, 0.3);
  fill(cents_4, 4);
  fill(rate_015, 0.15);
  fill(rate_055, 0.55);
  fill(rate_9, 9);
  measure("phaser", phaser);
  measure("resonators", resonators);
  measure("vowel", vowel);
  measure("stereo", stereo);
  measure("limiter", limiter);
  measure("vocoder", vocoder);
  measure("chorus", chorus);
  measure("flanger", flanger);
  measure("wow", wow);
  measure("varispeed", varispeed);
  measure("frequency-shift", frequency_shift);
  measure("reverb", reverb);
  measure("delay", delay);
  measure("grains", grains);
  measure("taps", taps);
  measure("folder", folder);
  measure("shaper", shaper);
  return sink == 12345.678;
}
