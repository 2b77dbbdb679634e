#include "person_indices.h"
#include <cmath>
#include <limits>
#include "parallel.h"
#include "patterns.h"

namespace scalewort {

namespace {

constexpr Eigen::Index people_at_once = 256;
constexpr double unknown = std::numeric_limits<double>::quiet_NaN();

// Calls work(person, answers) for everybody; answers lie side by side.
template <class Work>
void each_person(const MatrixRef& x, int threads, Work work) {
  share(x.rows(), people_at_once, threads, [&](Eigen::Index first, Eigen::Index last) {
    const Matrix people = x.middleRows(first, last - first).transpose();
    for (Eigen::Index i = first; i < last; ++i) work(i, people.col(i - first));
  });
}

// Numbers that come one by one, those missing passed over. They are taken from the first, so that equal ones have a variance of exactly 0.
class Spread {
 public:
  void add(double value) {
    if (std::isnan(value)) return;
    if (n_ == 0) first_ = value;
    const double from_first = value - first_;
    ++n_;
    const double step = from_first - mean_;
    mean_ += step / n_;
    squares_ += step * (from_first - mean_);
  }
  int n() const { return n_; }
  double mean() const { return n_ == 0 ? unknown : first_ + mean_; }
  double variance() const { return n_ < 2 ? unknown : squares_ / (n_ - 1); }

 private:
  int n_ = 0;
  double first_ = 0.0, mean_ = 0.0, squares_ = 0.0;
};

// Of every step-th answer; the same number for the same sum of whole answers.
template <class Answers>
double mean_of(const Answers& answers, const Columns& columns, std::size_t first = 0, std::size_t step = 1) {
  double sum = 0.0;
  int n = 0;
  for (std::size_t k = first; k < columns.size(); k += step) {
    const double answer = answers(columns[k]);
    if (std::isnan(answer)) continue;
    sum += answer;
    ++n;
  }
  return n == 0 ? unknown : sum / n;
}

// Correlation of a person's halves, stepped up where it is positive.
double consistency(const std::vector<double>& odd, const std::vector<double>& even) {
  if (odd.size() < 3) return unknown;
  Spread of_odd, of_even;
  for (double value : odd) of_odd.add(value);
  for (double value : even) of_even.add(value);
  double together = 0.0;
  for (std::size_t k = 0; k < odd.size(); ++k) together += (odd[k] - of_odd.mean()) * (even[k] - of_even.mean());
  const double spread = std::sqrt(of_odd.variance() * of_even.variance()) * static_cast<double>(odd.size() - 1);
  if (!(spread > 0.0)) return unknown;
  const double r = together / spread;
  return r < 0.0 ? r : 2.0 * r / (1.0 + r);
}

// By the answers that are there.
double distance(const VectorRef& from_mean, const Matrix& covariance) {
  Columns seen;
  for (Eigen::Index j = 0; j < from_mean.size(); ++j)
    if (!std::isnan(from_mean(j))) seen.push_back(j);
  if (seen.empty()) return unknown;
  return seen_part(covariance, seen).llt().matrixL().solve(seen_part(Vector(from_mean), seen)).squaredNorm();
}

}  // namespace

IndexVector longest_runs(const MatrixRef& x, int threads) {
  IndexVector out(x.rows());
  each_person(x, threads, [&](Eigen::Index i, const auto& answers) {
    int longest = 0, run = 0;
    for (Eigen::Index j = 0; j < answers.size(); ++j) {
      if (std::isnan(answers(j))) run = 0;
      else run = j > 0 && answers(j) == answers(j - 1) ? run + 1 : 1;
      longest = std::max(longest, run);
    }
    out(i) = longest;
  });
  return out;
}

Vector person_spreads(const MatrixRef& x, int threads) {
  Vector out(x.rows());
  each_person(x, threads, [&](Eigen::Index i, const auto& answers) {
    Spread spread;
    for (Eigen::Index j = 0; j < answers.size(); ++j) spread.add(answers(j));
    out(i) = std::sqrt(spread.variance());
  });
  return out;
}

Vector page_variances(const MatrixRef& x, const std::vector<Columns>& pages, const Vector& width, int threads) {
  Vector out(x.rows());
  each_person(x, threads, [&](Eigen::Index i, const auto& answers) {
    Spread variances;
    for (const Columns& page : pages) {
      Spread spread;
      for (Eigen::Index j : page) spread.add(answers(j) / width(j));
      variances.add(spread.variance());
    }
    out(i) = 2 * static_cast<std::size_t>(variances.n()) < pages.size() ? unknown : variances.mean();
  });
  return out;
}

Vector even_odd(const MatrixRef& x, const std::vector<Columns>& scales, int threads) {
  Vector out(x.rows());
  each_person(x, threads, [&](Eigen::Index i, const auto& answers) {
    std::vector<double> odd, even;
    for (const Columns& scale : scales) {
      const double first = mean_of(answers, scale, 0, 2), second = mean_of(answers, scale, 1, 2);
      if (std::isnan(first) || std::isnan(second)) continue;
      odd.push_back(first);
      even.push_back(second);
    }
    out(i) = consistency(odd, even);
  });
  return out;
}

Vector contradictions(const MatrixRef& x, const std::vector<Columns>& forward, const std::vector<Columns>& reversed, const Vector& width,
                      int threads) {
  Vector out(x.rows());
  each_person(x, threads, [&](Eigen::Index i, const auto& answers) {
    Spread gaps;
    for (std::size_t k = 0; k < forward.size(); ++k)
      gaps.add(std::abs(mean_of(answers, forward[k]) - mean_of(answers, reversed[k])) / width(k));
    out(i) = gaps.mean();
  });
  return out;
}

IndexVector left_at_end(const MatrixRef& x, int threads) {
  IndexVector out(x.rows());
  each_person(x, threads, [&](Eigen::Index i, const auto& answers) {
    Eigen::Index last = answers.size();
    while (last > 0 && std::isnan(answers(last - 1))) --last;
    out(i) = last == 0 ? 0 : static_cast<int>(answers.size() - last);
  });
  return out;
}

Vector distances(const MatrixRef& x, const Vector& mean, const Matrix& covariance, int threads) {
  Vector out(x.rows());
  const Eigen::LLT<Matrix> whole(covariance);
  share(x.rows(), people_at_once, threads, [&](Eigen::Index first, Eigen::Index last) {
    const Matrix from_mean = x.middleRows(first, last - first).transpose().colwise() - mean;
    const Matrix solved = whole.matrixL().solve(from_mean);
    for (Eigen::Index i = first; i < last; ++i) {
      const auto mine = from_mean.col(i - first);
      out(i) = mine.hasNaN() ? distance(mine, covariance) : solved.col(i - first).squaredNorm();
    }
  });
  return out;
}

}  // namespace scalewort
