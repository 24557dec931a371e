/*
 * The stages of core/src/dsp/half-band.ts in C, and a clock, for the programs of the bench.
 */
#include <math.h>
#include <string.h>
#include <time.h>

enum { BLOCK = 128, MOST = 64 };

static double now(void) {
  struct timespec t;
  clock_gettime(CLOCK_MONOTONIC, &t);
  return t.tv_sec * 1e9 + t.tv_nsec;
}

/* core/src/dsp/sinc-table.ts */
static double bessel(double x) {
  double term = 1, sum = 1;
  for (int k = 1; k < 60; k++) sum += term *= x * x / 4 / (k * k);
  return sum;
}
static double kaiser(double t, double beta) {
  return t <= -1 || t >= 1 ? 0 : bessel(beta * sqrt(1 - t * t)) / bessel(beta);
}
static double sinc(double x) { return fabs(x) < 1e-9 ? 1 : sin(M_PI * x) / (M_PI * x); }

/** A symmetric filter: weights from the outermost pair inwards. */
typedef struct { int pairs; double taps[MOST]; } Fir;

static void half_band(Fir *f, int pairs, double beta) {
  double sum = 0;
  f->pairs = pairs;
  for (int k = 0; k < pairs; k++) {
    const double x = pairs - 0.5 - k;
    sum += 2 * (f->taps[k] = sinc(x) * kaiser(x / (pairs + 0.5), beta));
  }
  for (int k = 0; k < pairs; k++) f->taps[k] /= sum;
}
static inline void even_length(Fir *f, int pairs, double beta) {
  double sum = 0;
  f->pairs = pairs;
  for (int k = 0; k < pairs; k++) {
    const double x = pairs - 0.5 - k;
    sum += 2 * (f->taps[k] = sinc(x / 2) * kaiser(x / pairs, beta));
  }
  for (int k = 0; k < pairs; k++) f->taps[k] /= sum;
}

/** Samples of a stage, after those that it still needs: up to eight times the rate. */
typedef double Line[2 * MOST + 8 * BLOCK];

/** out[i] += Σ taps[k · apart] · (rising[i + k] + falling[i − k]): eight sums at a time stay in registers. */
static inline void folded(const double *taps, int pairs, int apart, const double *rising, const double *falling,
                          double *restrict out, int frames) {
  for (int i = 0; i < frames; i += 16) {
    double sum[16];
    for (int n = 0; n < 16; n++) sum[n] = out[i + n];
    for (int k = 0; k < pairs; k++) {
      const double t = taps[k * apart];
      for (int n = 0; n < 16; n++) sum[n] += t * (rising[i + n + k] + falling[i + n - k]);
    }
    for (int n = 0; n < 16; n++) out[i + n] = sum[n];
  }
}

static void raise_rate(const Fir *f, double *work, const double *in, double *restrict out, int frames) {
  const int history = 2 * f->pairs - 1;
  double sums[4 * BLOCK];
  memset(sums, 0, frames * sizeof *sums);
  memcpy(work + history, in, frames * sizeof *in);
  folded(f->taps, f->pairs, 1, work, work + history, sums, frames);
  for (int i = 0; i < frames; i++) {
    out[2 * i] = sums[i];
    out[2 * i + 1] = work[i + f->pairs];
  }
  memmove(work, work + frames, history * sizeof *work);
}

static void part(const double *in, double *restrict even, double *restrict odd, int frames) {
  for (int i = 0; i < frames; i++) {
    even[i] = in[2 * i];
    odd[i] = in[2 * i + 1];
  }
}

static void lower_rate(const Fir *f, double *even, double *odd, const double *in, double *restrict out, int frames) {
  const int history = 2 * f->pairs - 1;
  part(in, even + history, odd + history, frames);
  memset(out, 0, frames * sizeof *out);
  folded(f->taps, f->pairs, 1, even, even + history, out, frames);
  for (int i = 0; i < frames; i++) out[i] = 0.5 * (out[i] + odd[i + f->pairs - 1]);
  memmove(odd, odd + frames, history * sizeof *odd);
  memmove(even, even + frames, history * sizeof *even);
}

/** The last half sample of the antiderivative is made whole by a filter of even length. */
static inline void lower_even(const Fir *f, double *even, double *odd, const double *in, double *restrict out, int frames) {
  const int history = f->pairs;
  part(in, even + history, odd + history, frames);
  memset(out, 0, frames * sizeof *out);
  folded(f->taps, (f->pairs + 1) / 2, 2, odd, even + history, out, frames);
  folded(f->taps + 1, f->pairs / 2, 2, even + 1, odd + history - 1, out, frames);
  memmove(even, even + frames, history * sizeof *even);
  memmove(odd, odd + frames, history * sizeof *odd);
}
