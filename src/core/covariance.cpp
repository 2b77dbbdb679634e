#include "covariance.h"
#include <cmath>
#include <limits>
#include "parallel.h"

namespace scalewort {

namespace {

void add_to(MomentSums& total, const MomentSums& part) {
  total.n += part.n;
  total.sum += part.sum;
  total.products += part.products;
}

MomentSums no_sums(Eigen::Index p) { return {0, Vector::Zero(p), Matrix::Zero(p, p)}; }

// The top rows of a block, which are complete.
void add_block(Matrix& block, Eigen::Index count, const Vector& shift, MomentSums& sums) {
  if (count == 0) return;
  auto rows = block.topRows(count);
  rows.rowwise() -= shift.transpose();
  sums.sum += rows.colwise().sum().transpose();
  sums.products.selfadjointView<Eigen::Lower>().rankUpdate(rows.transpose());
  sums.n += count;
}

MomentSums chunk_sums(const std::vector<Column>& columns, const int* keep, Eigen::Index first,
                      Eigen::Index last, const Vector& shift) {
  const Eigen::Index p = static_cast<Eigen::Index>(columns.size());
  MomentSums out = no_sums(p);
  Matrix block(rows_per_block, p);
  std::vector<Eigen::Index> complete;
  for (; first < last; first += rows_per_block) {
    const Eigen::Index size = std::min(rows_per_block, last - first);
    add_block(block, gather_complete(columns, keep, first, size, block, complete), shift, out);
  }
  return out;
}

// Rows [first, last) of each part, one part after the other; from: where each begins.
std::vector<Eigen::Index> rows_by_part(const int* part, int parts, Eigen::Index first, Eigen::Index last, std::vector<Eigen::Index>& from) {
  from.assign(parts + 1, 0);
  auto in_some = [&](Eigen::Index i) { return part[i] >= 1 && part[i] <= parts; };
  for (Eigen::Index i = first; i < last; ++i)
    if (in_some(i)) ++from[part[i]];
  for (int k = 0; k < parts; ++k) from[k + 1] += from[k];
  std::vector<Eigen::Index> out(from[parts]), next(from);
  for (Eigen::Index i = first; i < last; ++i)
    if (in_some(i)) out[next[part[i] - 1]++] = i;
  return out;
}

MomentSums sums_of_rows(const std::vector<Column>& columns, const Eigen::Index* where, Eigen::Index count, const Vector& shift, Matrix& block) {
  MomentSums out = no_sums(shift.size());
  std::vector<Eigen::Index> complete;
  for (Eigen::Index first = 0; first < count; first += rows_per_block) {
    const Eigen::Index size = std::min(rows_per_block, count - first);
    add_block(block, gather_complete(columns, where + first, size, block, complete), shift, out);
  }
  return out;
}

}  // namespace

Vector provisional_mean(const std::vector<Column>& columns, Eigen::Index rows, const int* keep) {
  const Eigen::Index p = static_cast<Eigen::Index>(columns.size());
  Matrix block(rows_per_block, p);
  std::vector<Eigen::Index> complete;
  for (Eigen::Index first = 0; first < rows; first += rows_per_block) {
    const Eigen::Index size = std::min(rows_per_block, rows - first);
    const Eigen::Index kept = gather_complete(columns, keep, first, size, block, complete);
    if (kept > 0) return block.topRows(kept).colwise().mean().transpose();
  }
  return Vector();
}

void add_rows(const std::vector<Column>& columns, Eigen::Index rows, const int* keep, const Vector& centre,
              int threads, MomentSums& total) {
  const Eigen::Index chunks = (rows + moment_rows - 1) / moment_rows;
  std::vector<MomentSums> parts(chunks);
  share(chunks, 1, threads, [&](Eigen::Index i, Eigen::Index) {
    parts[i] = chunk_sums(columns, keep, i * moment_rows, std::min(rows, (i + 1) * moment_rows), centre);
  });
  for (const MomentSums& part : parts) add_to(total, part);
}

SampleMoments moments_of(const MomentSums& total, const Vector& centre) {
  const Eigen::Index p = total.sum.size();
  SampleMoments out{Status::ok, total.n, Vector::Zero(p), Matrix::Zero(p, p)};
  if (out.n < 2) {
    out.status = Status::too_few_cases;
    out.mean.setConstant(std::numeric_limits<double>::quiet_NaN());
    out.covariance.setConstant(std::numeric_limits<double>::quiet_NaN());
    return out;
  }
  const double count = static_cast<double>(out.n);
  const Vector offset = total.sum / count;
  out.mean = centre + offset;
  out.covariance = total.products.selfadjointView<Eigen::Lower>();
  out.covariance -= count * offset * offset.transpose();
  out.covariance /= count - 1.0;
  return out;
}

SampleMoments complete_moments(const std::vector<Column>& columns, Eigen::Index rows, const int* keep,
                         int threads) {
  const Eigen::Index p = static_cast<Eigen::Index>(columns.size());
  Vector centre = provisional_mean(columns, rows, keep);
  if (centre.size() == 0) centre = Vector::Zero(p);
  MomentSums total = no_sums(p);
  add_rows(columns, rows, keep, centre, threads, total);
  return moments_of(total, centre);
}

std::vector<SampleMoments> moments_without_parts(const std::vector<Column>& columns, Eigen::Index rows, const int* part, int parts, int threads) {
  // So many rows that a part has some blocks of its own among them.
  constexpr Eigen::Index rows_at_once = 4 * moment_rows;
  const Eigen::Index p = static_cast<Eigen::Index>(columns.size());
  Vector centre = provisional_mean(columns, rows, nullptr);
  if (centre.size() == 0) centre = Vector::Zero(p);
  const Eigen::Index chunks = (rows + rows_at_once - 1) / rows_at_once;
  std::vector<std::vector<MomentSums>> found(chunks);
  share(chunks, 1, threads, [&](Eigen::Index c, Eigen::Index) {
    std::vector<Eigen::Index> from;
    const std::vector<Eigen::Index> where =
        rows_by_part(part, parts, c * rows_at_once, std::min(rows, (c + 1) * rows_at_once), from);
    Matrix block(rows_per_block, p);
    for (int k = 0; k < parts; ++k)
      found[c].push_back(sums_of_rows(columns, where.data() + from[k], from[k + 1] - from[k], centre, block));
  });
  std::vector<SampleMoments> out;
  for (int left_out = 0; left_out < parts; ++left_out) {
    MomentSums total = no_sums(p);
    for (const std::vector<MomentSums>& chunk : found)
      for (int k = 0; k < parts; ++k)
        if (k != left_out) add_to(total, chunk[k]);
    out.push_back(moments_of(total, centre));
  }
  return out;
}

Tally tally(const int* x, Eigen::Index rows, const int* keep, int low, int high) {
  Tally out{std::vector<double>(high - low + 1, 0.0), 0.0, 0.0};
  std::vector<int> counts(high - low + 1, 0);
  const unsigned width = static_cast<unsigned>(high - low);
  Eigen::Index missing = 0, outside = 0;
  for (Eigen::Index i = 0; i < rows; ++i) {
    if (keep != nullptr && keep[i] != 1) continue;
    const unsigned place = static_cast<unsigned>(x[i]) - static_cast<unsigned>(low);
    if (place <= width)
      ++counts[place];
    else if (x[i] == missing_whole)
      ++missing;
    else
      ++outside;
  }
  out.counts.assign(counts.begin(), counts.end());
  out.missing = static_cast<double>(missing);
  out.outside = static_cast<double>(outside);
  return out;
}

Tally tally(const double* x, Eigen::Index rows, const int* keep, int low, int high) {
  Tally out{std::vector<double>(high - low + 1, 0.0), 0.0, 0.0};
  for (Eigen::Index i = 0; i < rows; ++i) {
    if (keep != nullptr && keep[i] != 1) continue;
    const double place = x[i] - low;
    if (place >= 0.0 && place <= high - low && place == std::floor(place))
      out.counts[static_cast<std::size_t>(place)] += 1.0;
    else
      (std::isnan(x[i]) ? out.missing : out.outside) += 1.0;
  }
  return out;
}

}  // namespace scalewort
