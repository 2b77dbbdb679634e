#include "criteria.h"
#include <cmath>

namespace scalewort {

namespace {

// Row sums of `squares` less each element: what the other factors hold.
Matrix other_factors(const Matrix& squares) {
  return squares.rowwise().sum().replicate(1, squares.cols()) - squares;
}

// Column sums less each element: what the other items hold.
Matrix other_items(const Matrix& squares) {
  return squares.colwise().sum().replicate(squares.rows(), 1) - squares;
}

// A quarter of <squares, weight(squares)>, weight linear and symmetric.
double quartic(const Matrix& pattern, const Matrix& squares, const Matrix& weight,
               Matrix& gradient) {
  gradient = pattern.cwiseProduct(weight);
  return squares.cwiseProduct(weight).sum() / 4.0;
}

// Sum over items of the geometric mean of l^2 + epsilon.
double geomin(const Matrix& pattern, double epsilon, Matrix& gradient) {
  const double m = static_cast<double>(pattern.cols());
  const Matrix raised = pattern.array().square() + epsilon;
  const Vector mean = (raised.array().log().rowwise().sum() / m).exp();
  gradient = (2.0 / m) * mean.asDiagonal() * pattern.cwiseQuotient(raised);
  return mean.sum();
}

double log_or_zero(double x) { return x > 0.0 ? std::log(x) : 0.0; }

// Entropy of the cells less those of rows and columns, of squares as shares of their
// total: log m - sum e log e + sum r log r + sum c log c.
double infomax(const Matrix& pattern, const Matrix& squares, Matrix& gradient) {
  const double total = squares.sum();
  const Matrix share = squares / total;
  const Vector rows = share.rowwise().sum(), columns = share.colwise().sum().transpose();
  const Matrix log_share = share.unaryExpr(&log_or_zero);
  const Vector log_rows = rows.unaryExpr(&log_or_zero), log_columns = columns.unaryExpr(&log_or_zero);
  Matrix slope = -log_share;
  slope.colwise() += log_rows;
  slope.rowwise() += log_columns.transpose();
  slope.array() += 1.0;
  const double mean_slope = share.cwiseProduct(slope).sum();
  gradient = (2.0 / total) * pattern.cwiseProduct((slope.array() - mean_slope).matrix());
  return std::log(static_cast<double>(pattern.cols())) - share.cwiseProduct(log_share).sum() +
         rows.dot(log_rows) + columns.dot(log_columns);
}

double target_distance(const Matrix& pattern, const Matrix& target, Matrix& gradient) {
  gradient = (target.array().isNaN()).select(0.0, pattern - target);
  const double value = gradient.squaredNorm();
  gradient *= 2.0;
  return value;
}

}  // namespace

double Simplicity::operator()(const Matrix& pattern, Matrix& gradient) const {
  switch (criterion) {
    case Criterion::geomin:
      return geomin(pattern, parameter, gradient);
    case Criterion::bigeomin: {
      Matrix group;
      const double value = geomin(pattern.rightCols(pattern.cols() - 1), parameter, group);
      gradient = Matrix::Zero(pattern.rows(), pattern.cols());
      gradient.rightCols(group.cols()) = group;
      return value;
    }
    case Criterion::target:
      return target_distance(pattern, target, gradient);
    default:
      break;
  }
  const Matrix squares = pattern.array().square();
  if (criterion == Criterion::infomax) return infomax(pattern, squares, gradient);
  if (criterion == Criterion::crawford_ferguson)
    return quartic(pattern, squares,
                   (1.0 - parameter) * other_factors(squares) + parameter * other_items(squares),
                   gradient);
  Matrix weight = other_factors(squares);
  weight.rowwise() -= parameter * weight.colwise().mean().eval();
  return quartic(pattern, squares, weight, gradient);
}

}  // namespace scalewort
