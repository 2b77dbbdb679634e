#include "totals.h"
#include "parallel.h"

namespace scalewort {

namespace {

constexpr Eigen::Index rows_at_once = 64 * rows_per_block;

using Totals = std::map<double, TotalCell>;

void add_chunk(const std::vector<Column>& columns, const int* keep, Eigen::Index first,
               Eigen::Index last, Totals& cells) {
  const Eigen::Index p = static_cast<Eigen::Index>(columns.size());
  const double odd_items = static_cast<double>((p + 1) / 2), even_items = static_cast<double>(p / 2);
  Matrix block(rows_per_block, p);
  std::vector<Eigen::Index> complete;
  for (; first < last; first += rows_per_block) {
    const Eigen::Index size = std::min(rows_per_block, last - first);
    const Eigen::Index kept = gather_complete(columns, keep, first, size, block, complete);
    Vector odd = Vector::Zero(kept), even = Vector::Zero(kept);
    for (Eigen::Index j = 0; j < p; ++j) (j % 2 == 0 ? odd : even) += block.col(j).head(kept);
    for (Eigen::Index i = 0; i < kept; ++i) {
      const double gap = odd(i) / odd_items - (even_items > 0 ? even(i) / even_items : 0.0);
      TotalCell& cell = cells[odd(i) + even(i)];
      cell.n += 1.0;
      cell.gap += gap;
      cell.gap_squared += gap * gap;
    }
  }
}

}  // namespace

Totals tally_totals(const std::vector<Column>& columns, Eigen::Index rows, const int* keep,
                    int threads) {
  const Eigen::Index chunks = (rows + rows_at_once - 1) / rows_at_once;
  std::vector<Totals> parts(chunks);
  share(chunks, 1, threads, [&](Eigen::Index i, Eigen::Index) {
    add_chunk(columns, keep, i * rows_at_once, std::min(rows, (i + 1) * rows_at_once), parts[i]);
  });
  Totals all;
  for (const Totals& part : parts)
    for (const auto& entry : part) {
      TotalCell& cell = all[entry.first];
      cell.n += entry.second.n;
      cell.gap += entry.second.gap;
      cell.gap_squared += entry.second.gap_squared;
    }
  return all;
}

}  // namespace scalewort
