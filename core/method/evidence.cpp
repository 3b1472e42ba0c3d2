#include "core/method/evidence.h"

#include <algorithm>
#include <array>
#include <utility>

#include "core/error.h"

namespace heron {
namespace {

template <class T, std::size_t N>
using Names = std::array<std::pair<T, const char*>, N>;

constexpr Names<ReadingSource, 4> kSources{{{ReadingSource::typed, "typed"},
                                            {ReadingSource::live, "live"},
                                            {ReadingSource::imported, "imported"},
                                            {ReadingSource::derived, "derived"}}};
constexpr Names<ReadingRole, 3> kRoles{
    {{ReadingRole::before, "before"}, {ReadingRole::at, "at"}, {ReadingRole::after, "after"}}};
constexpr Names<Bound, 3> kBounds{
    {{Bound::none, ""}, {Bound::upper, "upper"}, {Bound::lower, "lower"}}};

template <class T, std::size_t N>
std::string name_of(const Names<T, N>& names, T value) {
  return std::find_if(names.begin(), names.end(), [&](const auto& n) { return n.first == value; })
      ->second;
}

template <class T, std::size_t N>
T value_of(const Names<T, N>& names, const std::string& name, const char* what) {
  const auto found =
      std::find_if(names.begin(), names.end(), [&](const auto& n) { return n.second == name; });
  if (found == names.end())
    throw InputError("reading", what, "\u201c" + name + "\u201d is none",
                     "Restore the shack from a copy, or type the reading again");
  return found->first;
}

}  // namespace

const Condition* find_condition(const std::vector<Condition>& conditions,
                                const std::string& quantity) {
  const auto found = std::find_if(conditions.begin(), conditions.end(),
                                  [&](const Condition& c) { return c.quantity == quantity; });
  return found == conditions.end() ? nullptr : &*found;
}

const Reading* find_reading(const std::vector<Reading>& readings, const std::string& quantity,
                            ReadingRole role) {
  const auto found = std::find_if(readings.rbegin(), readings.rend(), [&](const Reading& r) {
    return r.quantity == quantity && r.role == role;
  });
  return found == readings.rend() ? nullptr : &*found;
}

Figure to_figure(const Reading& r, const std::string& label) {
  Figure f;
  f.id = r.quantity;
  f.label = label;
  f.value = r.value;
  f.unit = r.unit;
  f.convention = r.convention;
  f.bound = r.bound;
  if (r.u > 0.0)
    f.contributions = {
        {r.instrument.empty() ? "reading as typed" : r.instrument, r.u, Scope::common}};
  return f;
}

std::string source_name(ReadingSource source) {
  return name_of(kSources, source);
}
std::string role_name(ReadingRole role) {
  return name_of(kRoles, role);
}
std::string bound_name(Bound bound) {
  return name_of(kBounds, bound);
}
ReadingSource source_from_name(const std::string& name) {
  return value_of(kSources, name, "source");
}
ReadingRole role_from_name(const std::string& name) {
  return value_of(kRoles, name, "role");
}
Bound bound_from_name(const std::string& name) {
  return value_of(kBounds, name, "bound");
}

}  // namespace heron
