/* The short kernels of core/src/dsp once more in C, for the bench: the same algorithms, sample by sample, in double precision. */
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <time.h>

enum { BLOCK = 128, MASK = 4095, TAPS = 8, PHASES = 512, PAIRS = 12 };

static double now(void) {
  struct timespec t;
  clock_gettime(CLOCK_MONOTONIC, &t);
  return t.tv_sec * 1e9 + t.tv_nsec;
}

static double left[BLOCK], right[BLOCK], left2[BLOCK], right2[BLOCK], delays[BLOCK];
static double ring_l[MASK + 1 + TAPS], ring_r[MASK + 1 + TAPS], table[(PHASES + 1) * TAPS];
static int head;

/* core/src/dsp/delay-line.ts: write and read */
static void sinc_delay(void) {
  for (int i = 0; i < BLOCK; i++) {
    ring_l[(head + i) & MASK] = left[i];
    ring_r[(head + i) & MASK] = right[i];
  }
  head = (head + BLOCK) & MASK;
  for (int i = 0; i < BLOCK; i++) {
    const double whole = floor(delays[i]);
    const double *w = table + (int)((1 - (delays[i] - whole)) * PHASES + 0.5) * TAPS;
    const int j = (head + i - (int)whole - 4) & MASK;
    double l = 0, r = 0;
    for (int k = 0; k < TAPS; k++) {
      l += w[k] * ring_l[j + k];
      r += w[k] * ring_r[j + k];
    }
    left2[i] = l;
    right2[i] = r;
  }
}

/* core/src/dsp/diffuser.ts, one channel */
static double d0[102], d1[166], d2[269], d3[435];
static void diffuser(void) {
  static int h0, h1, h2, h3;
  for (int i = 0; i < BLOCK; i++) {
    const double g = 0.7 * delays[i] / 400;
    const double p3 = d3[h3], p2 = d2[h2], p1 = d1[h1], p0 = d0[h0];
    const double f3 = left[i] - g * p3, f2 = f3 - g * p2, f1 = f2 - g * p1, f0 = f1 - g * p0;
    d3[h3] = p2 + g * f2;
    d2[h2] = p1 + g * f1;
    d1[h1] = p0 + g * f0;
    d0[h0] = f0 > 1e-20 || f0 < -1e-20 ? f0 : 0;
    if (++h0 == 102) h0 = 0;
    if (++h1 == 166) h1 = 0;
    if (++h2 == 269) h2 = 0;
    if (++h3 == 435) h3 = 0;
    left2[i] = p3 + g * f3;
  }
}

/* core/src/dsp/hilbert.ts, both sides */
static double memory[PAIRS][8];
static void hilbert(void) {
  for (int i = 0; i < BLOCK; i++) {
    left2[i] = left[i];
    right2[i] = right[i];
  }
  for (int k = 0; k < PAIRS; k++) {
    double *x = k & 1 ? left2 : left, *u = k & 1 ? right2 : right, *m = memory[k];
    const double a = 0.1 + 0.07 * k;
    double x1 = m[0], x2 = m[1], y1 = m[2], y2 = m[3], u1 = m[4], u2 = m[5], v1 = m[6], v2 = m[7];
    for (int i = 0; i < BLOCK; i++) {
      const double y = a * (x[i] + y2) - x2, v = a * (u[i] + v2) - u2;
      x2 = x1; x1 = x[i]; y2 = y1; y1 = y;
      u2 = u1; u1 = u[i]; v2 = v1; v1 = v;
      x[i] = y;
      u[i] = v;
    }
    m[0] = x1; m[1] = x2; m[2] = y1; m[3] = y2; m[4] = u1; m[5] = u2; m[6] = v1; m[7] = v2;
  }
}

/* core/src/dsp/math.ts: tanh, with the C library's exponential */
static void tanh_block(void) {
  for (int i = 0; i < BLOCK; i++) {
    const double e = exp(2 * delays[i] / 200 - 2);
    left2[i] = (e - 1) / (e + 1);
  }
}

static double sink;
static void measure(const char *name, void (*f)(void)) {
  double best = 1e300;
  for (int round = 0; round < 9; round++) {
    const double start = now();
    for (int n = 0; n < 2000; n++) {
      for (int i = 0; i < BLOCK; i++) left[i] = right[i] = delays[(i * 7) % BLOCK] * 1e-3;
      f();
      sink += left2[n % BLOCK];
    }
    const double each = (now() - start) / 2000 / BLOCK;
    if (each < best) best = each;
  }
  printf("%s\t%.3f\n", name, best);
}

int main(void) {
  for (int i = 0; i < BLOCK; i++) delays[i] = 300.3 + i * 0.01;
  for (int i = 0; i < (PHASES + 1) * TAPS; i++) table[i] = sin(i) / TAPS;
  measure("sinc delay, both sides", sinc_delay);
  measure("diffuser", diffuser);
  measure("Hilbert pair, both sides", hilbert);
  measure("tanh", tanh_block);
  return sink == 12345.678;
}
