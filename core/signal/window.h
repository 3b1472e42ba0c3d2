#pragma once

#include <cstddef>
#include <string>
#include <vector>

namespace heron {

/// Periodic (DFT-even) windows with their equivalent noise bandwidths in bins:
/// rectangular 1, Hann 1.5000, 4-term Blackman-Harris 2.0044, flat-top 3.7702 (Harris 1978).
enum class WindowKind { rectangular, hann, blackman_harris_4, flat_top };

std::vector<float> make_window(WindowKind kind, std::size_t n);
double enbw_bins(WindowKind kind);
/// Bins from the centre of a line to the first zero of its main lobe.
int main_lobe_half_width_bins(WindowKind kind);
std::string window_name(WindowKind kind);
/// Spectrum of the window at an offset of `bins`, 1 at the centre.
double window_response(WindowKind kind, double bins);

}  // namespace heron
