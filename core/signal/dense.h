#pragma once

#include <Eigen/Core>

namespace heron {

// Decompositions and products of dense matrices, compiled once: whoever includes this needs no more
// of Eigen than its vectors and matrices.

Eigen::MatrixXd normal_matrix(const Eigen::MatrixXd& a);  ///< aᵀ a
Eigen::VectorXd times(const Eigen::MatrixXd& a, const Eigen::VectorXd& x);
Eigen::VectorXd transposed_times(const Eigen::MatrixXd& a, const Eigen::VectorXd& y);

/// Square; LU with full pivoting.
Eigen::VectorXd solved(const Eigen::MatrixXd& m, const Eigen::VectorXd& right);
/// Symmetric and positive semidefinite; LDLᵀ.
Eigen::VectorXd solved_symmetric(const Eigen::MatrixXd& m, const Eigen::VectorXd& right);
Eigen::MatrixXd inverse_symmetric(const Eigen::MatrixXd& m);
Eigen::MatrixXcd inverse_hermitian(const Eigen::MatrixXcd& m);
/// Of any rank, by complete orthogonal decomposition.
Eigen::MatrixXd pseudo_inverse(const Eigen::MatrixXd& m);

/// Least squares by singular values (thin, one-sided Jacobi); at least as many rows as columns.
class LeastSquares {
 public:
  explicit LeastSquares(const Eigen::MatrixXd& a);
  double reciprocal_condition() const;  ///< smallest over largest singular value
  Eigen::VectorXd solve(const Eigen::VectorXd& y) const;
  Eigen::MatrixXd inverse_normal() const;  ///< (aᵀ a)⁻¹

 private:
  Eigen::MatrixXd left_;
  Eigen::MatrixXd right_;
  Eigen::VectorXd sizes_;
};

}  // namespace heron
