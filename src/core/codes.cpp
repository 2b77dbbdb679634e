#include "codes.h"
#include <algorithm>
#include <cstdint>
#include <limits>
#include "parallel.h"

namespace scalewort {

namespace {

// The rows to take.
std::vector<Eigen::Index> chosen_rows(const std::vector<Column>& columns, Eigen::Index rows,
                                      const int* keep, bool complete) {
  std::vector<std::uint8_t> there(rows, 1);
  for (Eigen::Index i = 0; keep != nullptr && i < rows; ++i) there[i] = keep[i] == 1;
  if (complete)
    for (const Column& column : columns)
      for (Eigen::Index i = 0; i < rows; ++i) there[i] &= column.whole[i] != missing_whole;
  std::vector<Eigen::Index> out;
  out.reserve(rows);
  for (Eigen::Index i = 0; i < rows; ++i)
    if (there[i]) out.push_back(i);
  return out;
}

// One item: its codes, and the answers that occur; false where there are too many.
bool code_column(const Column& column, const std::vector<Eigen::Index>& chosen, bool everyone,
                 int most, std::uint8_t* codes, Vector& values) {
  constexpr int widest = 100000;
  const Eigen::Index n = static_cast<Eigen::Index>(chosen.size());
  auto answer = [&](Eigen::Index i) { return column.whole[everyone ? i : chosen[i]]; };
  int low = std::numeric_limits<int>::max(), high = std::numeric_limits<int>::min();
  for (Eigen::Index i = 0; i < n; ++i) {
    const int x = answer(i);
    low = x == missing_whole ? low : std::min(low, x);
    high = x == missing_whole ? high : std::max(high, x);
  }
  if (low > high) return true;
  if (static_cast<double>(high) - low >= widest) return false;
  const int size = high - low + 1;
  std::vector<int> code(size, 0);
  for (Eigen::Index i = 0; i < n; ++i)
    if (answer(i) != missing_whole) code[answer(i) - low] = 1;
  std::vector<double> seen;
  for (int step = 0; step < size; ++step) {
    const int place = column.sign > 0 ? step : size - 1 - step;
    if (code[place] == 0) continue;
    seen.push_back(column.shift + column.sign * (low + place));
    code[place] = static_cast<int>(seen.size());
  }
  if (static_cast<int>(seen.size()) > most) return false;
  for (Eigen::Index i = 0; i < n; ++i)
    codes[i] = static_cast<std::uint8_t>(answer(i) == missing_whole ? 0 : code[answer(i) - low]);
  values = Eigen::Map<const Vector>(seen.data(), seen.size());
  return true;
}

}  // namespace

Eigen::Index Coded::cases() const {
  Eigen::Index count = 0;
  for (Eigen::Index i = 0; i < codes.rows(); ++i) {
    Eigen::Index j = 0;
    while (j < codes.cols() && codes(i, j) == 0) ++j;
    count += j < codes.cols();
  }
  return count;
}

IndexVector Coded::categories() const {
  IndexVector out(values.size());
  for (std::size_t j = 0; j < values.size(); ++j) out(j) = static_cast<int>(values[j].size());
  return out;
}

Coded code_columns(const std::vector<Column>& columns, Eigen::Index rows, const int* keep,
                   bool complete, int most, int threads) {
  const std::vector<Eigen::Index> chosen = chosen_rows(columns, rows, keep, complete);
  const Eigen::Index n = static_cast<Eigen::Index>(chosen.size());
  Coded out{Status::ok, Codes::Zero(n, columns.size()), std::vector<Vector>(columns.size())};
  std::vector<std::uint8_t> fine(columns.size(), 1);
  share(columns.size(), 1, threads, [&](Eigen::Index j, Eigen::Index) {
    fine[j] = code_column(columns[j], chosen, n == rows, most, out.codes.col(j).data(), out.values[j]);
  });
  if (std::find(fine.begin(), fine.end(), 0) != fine.end()) out.status = Status::too_many_categories;
  return out;
}

}  // namespace scalewort
