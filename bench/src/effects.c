/*
 * Effects of core/src/effects once more in C, as far as they are short to write, for the bench: the same
 * algorithms at their defaults, with a value of each parameter for each frame, stereo, in double precision.
 * Prints “effect <id>” and nanoseconds a frame, the best of several rounds as in the bench.
 */
#include <math.h>
#include <stdio.h>
#include <string.h>
#include <time.h>

enum { BLOCK = 128, RING = 16384, TAPS = 8, PHASES = 1024, SINE = 4096 };
#define RATE 48000.0
#define TAU 6.283185307179586

static double now(void) {
  struct timespec t;
  clock_gettime(CLOCK_MONOTONIC, &t);
  return t.tv_sec * 1e9 + t.tv_nsec;
}

static float in_l[BLOCK], in_r[BLOCK], out_l[BLOCK], out_r[BLOCK];
static double table[(PHASES + 1) * TAPS], sines[SINE + 1];

/** A parameter with a value for each frame. */
typedef double Param[BLOCK];
static Param hz_700, percent_60, rate_03, percent_40, percent_25, percent_50, percent_100, percent_80, zero, one;
static Param hz_40, ms_1_2, tenth, cents_20, percent_30, cents_4, rate_015, rate_055, rate_9;

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
typedef struct { int pairs; double taps[32], work[64 + 4 * BLOCK]; } Up;
static void raise_rate(Up *f, const double *in, double *restrict out, int frames) {
  const int history = 2 * f->pairs - 1;
  memcpy(f->work + history, in, frames * sizeof *in);
  for (int i = 0; i < frames; i += 16) {
    double sum[16] = {0};
    for (int k = 0; k < f->pairs; k++)
      for (int n = 0; n < 16; n++) sum[n] += f->taps[k] * (f->work[i + n + k] + f->work[history + i + n - k]);
    for (int n = 0; n < 16; n++) {
      out[2 * (i + n)] = sum[n];
      out[2 * (i + n) + 1] = f->work[i + n + f->pairs];
    }
  }
  memmove(f->work, f->work + frames, history * sizeof *f->work);
}
static void limiter(void) {
  enum { AHEAD = 72, DELAY = 34, WINDOW = AHEAD + 2, SIZE = 256 };
  static Up ups[2][3] = {{{32}, {5}, {4}}, {{32}, {5}, {4}}};
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
    raise_rate(&ups[c][0], x[c], y1, BLOCK);
    raise_rate(&ups[c][1], y1, y2, 2 * BLOCK);
    raise_rate(&ups[c][2], y2, y3, 4 * BLOCK);
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
typedef struct { float left[RING + TAPS], right[RING + TAPS]; int head; } Line;
static void write_line(Line *d, const double *left, const double *right) {
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
static void read_line(const Line *d, const double *times, double *restrict left, double *restrict right) {
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
  static Line line;
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
static void read_side(const Line *d, const float *side, const double *times, double *restrict out) {
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
  static Line line, dry;
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
  static Line line;
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
  static Line line;
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
  static Line line;
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
  return sink == 12345.678;
}
