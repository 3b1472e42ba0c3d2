#include "core/signal/dense.h"

#include <Eigen/Dense>

namespace heron {

using Eigen::MatrixXcd;
using Eigen::MatrixXd;
using Eigen::VectorXd;

MatrixXd normal_matrix(const MatrixXd& a) {
  return a.transpose() * a;
}

VectorXd times(const MatrixXd& a, const VectorXd& x) {
  return a * x;
}

VectorXd transposed_times(const MatrixXd& a, const VectorXd& y) {
  return a.transpose() * y;
}

VectorXd solved(const MatrixXd& m, const VectorXd& right) {
  return m.fullPivLu().solve(right);
}

VectorXd solved_symmetric(const MatrixXd& m, const VectorXd& right) {
  return m.ldlt().solve(right);
}

MatrixXd inverse_symmetric(const MatrixXd& m) {
  return m.ldlt().solve(MatrixXd::Identity(m.rows(), m.cols()));
}

MatrixXcd inverse_hermitian(const MatrixXcd& m) {
  return m.ldlt().solve(MatrixXcd::Identity(m.rows(), m.cols()));
}

MatrixXd pseudo_inverse(const MatrixXd& m) {
  return m.completeOrthogonalDecomposition().pseudoInverse();
}

LeastSquares::LeastSquares(const MatrixXd& a) {
  const Eigen::JacobiSVD<MatrixXd> svd(a, Eigen::ComputeThinU | Eigen::ComputeThinV);
  left_ = svd.matrixU();
  right_ = svd.matrixV();
  sizes_ = svd.singularValues();
}

double LeastSquares::reciprocal_condition() const {
  return sizes_(0) > 0.0 ? sizes_(sizes_.size() - 1) / sizes_(0) : 0.0;
}

VectorXd LeastSquares::solve(const VectorXd& y) const {
  return right_ * (left_.transpose() * y).cwiseQuotient(sizes_);
}

MatrixXd LeastSquares::inverse_normal() const {
  return right_ * sizes_.array().square().inverse().matrix().asDiagonal() * right_.transpose();
}

}  // namespace heron
