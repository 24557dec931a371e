/*
 * The whole chain of the bench once more in C, as the limit of what this processor can do with it: saturation at
 * four times the rate, five moving bells, two moving delay lines, compressor, stereo, in double precision. The same
 * algorithms and the same quality as in core/src (files named at each part), written so that the compiler can work
 * on many samples at a time. Reads the input from a file (two channels of floats, one after the other) and prints
 * nanoseconds a frame for each of the rounds asked for, then samples of the output, for a comparison with ours.
 */
#include <stdio.h>
#include <stdlib.h>

#include "half-band.h"

enum { STRIDE = 16, BELLS = 5, DELAYS = 2, RING = 8192, TAPS = 8, PHASES = 1024 };
#define RATE 48000.0
#define TAU 6.283185307179586

/* ---- Saturation: core/src/dsp/half-band.ts, antiderivative.ts, one-pole.ts ---- */

static Fir up1, up2, down1, down2;
static struct Channel {
  Line work1, work2, even1, odd1, even2, odd2;
  double last, held[2][8], x, y;
} channels[2];

/** Holds back the last samples of a block, so that every rate has one latency. */
static void delay_by(double *held, int count, double *block) {
  double late[8];
  memcpy(late, block + BLOCK - count, count * sizeof *late);
  memmove(block + count, block, (BLOCK - count) * sizeof *block);
  memcpy(block, held, count * sizeof *block);
  memcpy(held, late, count * sizeof *late);
}

static void saturate(struct Channel *c, double *x, double gain, double blocking) {
  double twice[2 * BLOCK], fast[4 * BLOCK], roots[4 * BLOCK + 1];
  for (int i = 0; i < BLOCK; i++) x[i] *= gain;
  delay_by(c->held[0], 1, x);
  raise_rate(&up1, c->work1, x, twice, BLOCK);
  raise_rate(&up2, c->work2, twice, fast, 2 * BLOCK);
  roots[0] = sqrt(1 + c->last * c->last);
  for (int i = 0; i < 4 * BLOCK; i++) roots[i + 1] = sqrt(1 + fast[i] * fast[i]);
  const double last = fast[4 * BLOCK - 1];
  for (int i = 4 * BLOCK - 1; i > 0; i--) fast[i] = (fast[i] + fast[i - 1]) / (roots[i + 1] + roots[i]);
  fast[0] = (fast[0] + c->last) / (roots[1] + roots[0]);
  c->last = last;
  lower_even(&down2, c->even2, c->odd2, fast, twice, 2 * BLOCK);
  lower_rate(&down1, c->even1, c->odd1, twice, x, BLOCK);
  delay_by(c->held[1], 2, x);
  for (int i = 0; i < BLOCK; i++) {
    const double a = x[i];
    c->y = a - c->x + blocking * c->y;
    c->x = a;
    x[i] = (float)c->y;
  }
}

/* ---- Bells: core/src/dsp/matched-band.ts, band-stages.ts, effects/eq.ts ---- */

typedef struct { double g, k, a, b, c; } Numbers;
static struct Bell {
  Numbers now, next;
  double l1, l2, r1, r2, hz;
  int begun;
} bells[BELLS];

static double power_of(const double *p, double place, double share) {
  const double a = share * share, b = place * place, c = place * share;
  const double nr = p[2] * a - p[0] * b, ni = p[1] * c, dr = p[5] * a - p[3] * b, di = p[4] * c;
  return (nr * nr + ni * ni) / (dr * dr + di * di);
}

static Numbers design_bell(double hz, double q, double db) {
  const double a = pow(10, db / 40), w = 1 / q, share = hz / RATE;
  const double p[6] = {1, a * w, 1, 1, w / a, 1};
  const double damping = p[4] / 2, on_band = p[1] * p[1] / (p[4] * p[4]);
  const double wp = TAU * share, decay = exp(-damping * wp);
  const double a1 = -2 * decay * cos(sqrt(1 - damping * damping) * wp), a2 = decay * decay;
  const double sum = 1 + a1 + a2, turn = 1 - a1 + a2, s = sin(wp / 2);
  const double phi1 = s * s, phi0 = 1 - phi1, phi2 = 4 * phi0 * phi1;
  const double at_band = (sum * sum * phi0 + turn * turn * phi1 - 4 * a2 * phi2) * on_band;
  const double far = share > 0.3 && share < 0.42 ? 0.45 : 0.36, fs = sin(M_PI * far);
  const double psi1 = fs * fs, psi0 = 1 - psi1, psi2 = 4 * psi0 * psi1;
  const double at_far = (sum * sum * psi0 + turn * turn * psi1 - 4 * a2 * psi2) * power_of(p, far, share);
  const double b0p = sum * sum, det = psi1 * phi2 - phi1 * psi2;
  double b1p = ((at_far - b0p * psi0) * phi2 - (at_band - b0p * phi0) * psi2) / det;
  if (!(b1p > 0)) b1p = turn * turn * power_of(p, 0.5, share);
  const double b2p = (at_band - b0p * phi0 - b1p * phi1) / phi2;
  const double r1 = sqrt(b1p), v = 0.5 * (sum + r1), inner = v * v + b2p;
  const double b0 = 0.5 * (v + sqrt(inner > 0 ? inner : 0)), b1 = 0.5 * (sum - r1), b2 = -b2p / (4 * b0);
  const double g = sqrt(sum / turn), m0 = (b0 - b1 + b2) / turn, twice = 2 / turn / g;
  return (Numbers){g, (1 - a2) * twice, m0, (b0 - b2 - m0 * (1 - a2)) * twice, (b0 + b1 + b2) / sum - m0};
}

typedef struct { double d[STRIDE], e[STRIDE], f[STRIDE], a[STRIDE], b[STRIDE], c[STRIDE]; } Weights;

static void weigh(struct Bell *bell, double share, Weights *restrict w) {
  const Numbers n = bell->now, m = bell->next;
  const double wg = share * (m.g - n.g), wk = share * (m.k - n.k), wa = share * (m.a - n.a),
               wb = share * (m.b - n.b), wc = share * (m.c - n.c);
  for (int i = 0; i < STRIDE; i++) {
    const double t = (i + 1) / (double)STRIDE, g = n.g + t * wg, k = n.k + t * wk;
    const double d = 2 / (1 + g * (g + k)), e = d * g;
    w->d[i] = d - 1;
    w->e[i] = e;
    w->f[i] = e * g;
    w->a[i] = n.a + t * wa;
    w->b[i] = 0.5 * (n.b + t * wb);
    w->c[i] = 0.5 * (n.c + t * wc);
  }
  bell->now = (Numbers){n.g + wg, n.k + wk, n.a + wa, n.b + wb, n.c + wc};
}

/** One bell over a stride of both sides, which lie side by side so that they go through the same instructions. */
static void run_bell(struct Bell *bell, const Weights *w, double (*x)[2]) {
  double l1[2] = {bell->l1, bell->r1}, l2[2] = {bell->l2, bell->r2};
  for (int i = 0; i < STRIDE; i++)
    for (int s = 0; s < 2; s++) {
      const double v = x[i][s] - l2[s];
      const double n = w->d[i] * l1[s] + w->e[i] * v, m = l2[s] + w->e[i] * l1[s] + w->f[i] * v;
      x[i][s] = w->a[i] * x[i][s] + w->b[i] * (l1[s] + n) + w->c[i] * (l2[s] + m);
      l1[s] = n;
      l2[s] = m;
    }
  bell->l1 = l1[0];
  bell->r1 = l1[1];
  bell->l2 = l2[0];
  bell->r2 = l2[1];
}

/** Whether a block of frequencies goes so straight that the numbers of the design may do so too. */
static int straight(const double *hz, double from) {
  const double whole = hz[BLOCK - 1] - from, step = whole / BLOCK;
  if (fabs(whole) > 0.02 * from) return 0;
  for (int i = STRIDE - 1; i < BLOCK - 1; i += STRIDE)
    if (fabs(hz[i] - from - step * (i + 1)) > 2e-4 * from) return 0;
  return 1;
}

static const double bell_settings[BELLS][3] = {
    {180, 0.3, 60}, {500, 0.7, 200}, {1200, 1.1, 500}, {3000, 0.5, 1200}, {7000, 0.9, 2500}};
static const double delay_settings[DELAYS][3] = {{0.011, 0.6, 0.002}, {0.017, 0.9, 0.003}};
static double phases[BELLS + DELAYS];

/* core/src/dsp/sines.ts */
static void sine_block(double *out, double *phase, double step) {
  for (int k = 0; k < 8; k++) out[k] = sin(TAU * (*phase + k * step));
  const double turn = 2 * cos(TAU * 4 * step);
  for (int k = 8; k < BLOCK; k++) out[k] = turn * out[k - 4] - out[k - 8];
  *phase = fmod(*phase + BLOCK * step, 1);
}

static void equalise(double *left, double *right) {
  double hz[BELLS][BLOCK], x[BLOCK][2];
  int way[BELLS];
  Weights w;
  for (int b = 0; b < BELLS; b++) {
    sine_block(hz[b], phases + b, bell_settings[b][1] / RATE);
    for (int i = 0; i < BLOCK; i++) hz[b][i] = bell_settings[b][0] + bell_settings[b][2] * hz[b][i];
    way[b] = bells[b].begun && straight(hz[b], bells[b].hz);
  }
  for (int i = 0; i < BLOCK; i++) {
    x[i][0] = left[i];
    x[i][1] = right[i];
  }
  for (int start = 0; start < BLOCK; start += STRIDE)
    for (int b = 0; b < BELLS; b++) {
      struct Bell *bell = bells + b;
      if (start == 0 || !way[b]) {
        bell->hz = hz[b][way[b] ? BLOCK - 1 : start + STRIDE - 1];
        bell->next = design_bell(bell->hz, 1.4, 6);
        if (!bell->begun) bell->now = bell->next;
        bell->begun = 1;
      }
      weigh(bell, way[b] ? STRIDE / (double)(BLOCK - start) : 1, &w);
      run_bell(bell, &w, x + start);
    }
  for (int i = 0; i < BLOCK; i++) {
    left[i] = (float)x[i][0];
    right[i] = (float)x[i][1];
  }
}

/* ---- Delays: core/src/dsp/delay-line.ts ---- */

static double sincs[(PHASES + 1) * TAPS];
static struct { float left[RING + TAPS], right[RING + TAPS]; int head; } lines[DELAYS];

static void make_sincs(void) {
  for (int p = 0; p <= PHASES; p++) {
    double sum = 0, *row = sincs + p * TAPS;
    for (int k = 0; k < TAPS; k++) {
      const double x = k - (TAPS / 2 - 1) - p / (double)PHASES;
      sum += row[k] = sinc(x) * kaiser(x / (TAPS / 2), 6.5);
    }
    for (int k = 0; k < TAPS; k++) row[k] /= sum;
  }
}

static void delay(int d, double *left, double *right) {
  double samples[BLOCK];
  float *a = lines[d].left, *b = lines[d].right;
  int head = lines[d].head;
  sine_block(samples, phases + BELLS + d, delay_settings[d][1] / RATE);
  for (int i = 0; i < BLOCK; i++) {
    samples[i] = delay_settings[d][0] * RATE + BLOCK + delay_settings[d][2] * RATE * samples[i];
    a[head + i] = left[i];
    b[head + i] = right[i];
  }
  if (head < TAPS) {
    memcpy(a + RING, a, TAPS * sizeof *a);
    memcpy(b + RING, b, TAPS * sizeof *b);
  }
  head = lines[d].head = (head + BLOCK) & (RING - 1);
  for (int i = 0; i < BLOCK; i++) {
    const double whole = floor(samples[i]);
    const double *w = sincs + (int)((1 - (samples[i] - whole)) * PHASES + 0.5) * TAPS;
    const int j = (head + i - (int)whole - 4) & (RING - 1);
    double l = 0, r = 0;
    for (int k = 0; k < TAPS; k++) {
      l += w[k] * a[j + k];
      r += w[k] * b[j + k];
    }
    left[i] = l;
    right[i] = r;
  }
}

/* ---- Compressor: core/src/dsp/gain-computer.ts, effects/compressor.ts ---- */

static double change;

static void compress(double *left, double *right) {
  const double attack = exp(-1 / (0.01 * RATE)), release = exp(-1 / (0.15 * RATE));
  double gains[BLOCK];
  for (int i = 0; i < BLOCK; i++) {
    left[i] = (float)left[i];
    right[i] = (float)right[i];
    gains[i] = 6.020599913279624 * log2(1e-6 + fmax(fabs(left[i]), fabs(right[i])));
  }
  for (int i = 0; i < BLOCK; i++) {
    const double over = gains[i] + 20, within = fmin(6, fmax(0, over + 3));
    gains[i] = (1 / 4.0 - 1) * (within * within / 12 + fmax(0, over - 3));
  }
  for (int i = 0; i < BLOCK; i++)
    gains[i] = change = gains[i] + (gains[i] < change ? attack : release) * (change - gains[i]);
  for (int i = 0; i < BLOCK; i++) gains[i] = exp2(0.16609640474436813 * gains[i]);
  for (int i = 0; i < BLOCK; i++) {
    left[i] *= gains[i];
    right[i] *= gains[i];
  }
}

static void reset(void) {
  memset(channels, 0, sizeof channels);
  memset(bells, 0, sizeof bells);
  memset(lines, 0, sizeof lines);
  memset(phases, 0, sizeof phases);
  change = 0;
}

int main(int count, char **args) {
  if (count < 5) return 1;
  const int frames = atoi(args[2]), rounds = atoi(args[3]), samples = atoi(args[4]);
  float *input = malloc(2 * frames * sizeof *input), *output = malloc(2 * frames * sizeof *output);
  FILE *file = fopen(args[1], "rb");
  if (!file || fread(input, sizeof *input, 2 * frames, file) != 2 * (size_t)frames) return 1;
  fclose(file);
  half_band(&up1, 24, 11.5);
  half_band(&up2, 8, 12);
  down1 = up1;
  even_length(&down2, 13, 11.3);
  make_sincs();
  const double gain = pow(10, 18 / 20.0), blocking = exp(-TAU * 4 / RATE);
  for (int round = 0; round < rounds; round++) {
    reset();
    const double start = now();
    for (int at = 0; at + BLOCK <= frames; at += BLOCK) {
      double left[BLOCK], right[BLOCK];
      for (int i = 0; i < BLOCK; i++) {
        left[i] = input[at + i];
        right[i] = input[frames + at + i];
      }
      saturate(channels, left, gain, blocking);
      saturate(channels + 1, right, gain, blocking);
      equalise(left, right);
      for (int d = 0; d < DELAYS; d++) delay(d, left, right);
      compress(left, right);
      for (int i = 0; i < BLOCK; i++) {
        output[at + i] = left[i];
        output[frames + at + i] = right[i];
      }
    }
    printf("%.4f\n", (now() - start) / frames);
  }
  for (int i = 0; i < samples; i++) printf("%.9g\n", output[(long)frames / BLOCK * BLOCK - samples + i]);
  return 0;
}
