#include "wide_product.h"
#include <algorithm>
#include <vector>
// Not on Windows, where wide registers may be put where they cannot lie.
#if defined(__GNUC__) && defined(__x86_64__) && !defined(_WIN32)
#define SCALEWORT_WIDE
#include <immintrin.h>
#endif

namespace scalewort {

#ifdef SCALEWORT_WIDE

namespace {

constexpr Eigen::Index tall = 12, broad = 4;               // a tile, which twelve registers hold
constexpr Eigen::Index tile_rows = 96, tile_depth = 256;  // what stays near the processor

// Strips of `height` rows, each by column, the last one filled up with zeros.
void pack(const Lying& x, Eigen::Index rows, Eigen::Index columns, Eigen::Index height, double* out) {
  for (Eigen::Index top = 0; top < rows; top += height)
    for (Eigen::Index j = 0; j < columns; ++j)
      for (Eigen::Index i = top; i < top + height; ++i) *out++ = i < rows ? x.first[i * x.row + j * x.column] : 0.0;
}

struct Column {
  __m256d top, middle, bottom;
};

__attribute__((target("avx2,fma"), always_inline)) inline void add(Column& sum, __m256d top, __m256d middle, __m256d bottom, const double* by) {
  const __m256d factor = _mm256_broadcast_sd(by);
  sum.top = _mm256_fmadd_pd(top, factor, sum.top);
  sum.middle = _mm256_fmadd_pd(middle, factor, sum.middle);
  sum.bottom = _mm256_fmadd_pd(bottom, factor, sum.bottom);
}

__attribute__((target("avx2,fma"), always_inline)) inline void put(const Column& sum, double* out) {
  _mm256_storeu_pd(out, sum.top);
  _mm256_storeu_pd(out + 4, sum.middle);
  _mm256_storeu_pd(out + 8, sum.bottom);
}

// One strip of a times one strip of b.
__attribute__((target("avx2,fma"))) void tile(Eigen::Index inner, const double* a, const double* b, double* out) {
  const __m256d none = _mm256_setzero_pd();
  Column one{none, none, none}, two = one, three = one, four = one;
  for (Eigen::Index k = 0; k < inner; ++k, a += tall, b += broad) {
    const __m256d top = _mm256_loadu_pd(a), middle = _mm256_loadu_pd(a + 4), bottom = _mm256_loadu_pd(a + 8);
    add(one, top, middle, bottom, b);
    add(two, top, middle, bottom, b + 1);
    add(three, top, middle, bottom, b + 2);
    add(four, top, middle, bottom, b + 3);
  }
  put(one, out);
  put(two, out + tall);
  put(three, out + 2 * tall);
  put(four, out + 3 * tall);
}

}  // namespace

bool has_wide_registers() { return __builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma"); }

void add_wide_product(Eigen::Index rows, Eigen::Index columns, Eigen::Index inner, Lying a, Lying b, double* c, Eigen::Index stride) {
  const auto filled = [](Eigen::Index size, Eigen::Index by) { return (size + by - 1) / by * by; };
  const Eigen::Index most = std::min(inner, tile_depth);
  std::vector<double> of_a(filled(std::min(rows, tile_rows), tall) * most), of_b(filled(columns, broad) * most);
  double out[tall * broad];
  for (Eigen::Index from = 0; from < inner; from += tile_depth) {
    const Eigen::Index deep = std::min(tile_depth, inner - from);
    pack(turned({b.first + from * b.row, b.row, b.column}), columns, deep, broad, of_b.data());
    for (Eigen::Index top = 0; top < rows; top += tile_rows) {
      const Eigen::Index high = std::min(tile_rows, rows - top);
      pack({a.first + top * a.row + from * a.column, a.row, a.column}, high, deep, tall, of_a.data());
      for (Eigen::Index left = 0; left < columns; left += broad) {
        for (Eigen::Index at = 0; at < high; at += tall) {
          tile(deep, of_a.data() + at * deep, of_b.data() + left * deep, out);
          for (Eigen::Index j = 0; j < std::min(broad, columns - left); ++j)
            for (Eigen::Index i = 0; i < std::min(tall, high - at); ++i) c[top + at + i + (left + j) * stride] += out[i + j * tall];
        }
      }
    }
  }
}

#else

bool has_wide_registers() { return false; }

void add_wide_product(Eigen::Index, Eigen::Index, Eigen::Index, Lying, Lying, double*, Eigen::Index) {}

#endif

}  // namespace scalewort
