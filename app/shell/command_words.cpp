#include "app/shell/command_words.h"

#include <QRegularExpression>
#include <QStringList>
#include <algorithm>
#include <array>

namespace heron {
namespace {

/// What people call it, and the word that stands in names.
constexpr std::array<std::pair<const char*, const char*>, 38> kOtherWords{
    {{"make", "new"},
     {"create", "new"},
     {"collection", "shack"},
     {"project", "shack"},
     {"folder", "shack"},
     {"database", "shack"},
     {"load", "open"},
     {"night", "dark"},
     {"bright", "dark"},
     {"light", "dark"},
     {"colour", "theme"},
     {"appearance", "theme"},
     {"keyboard", "keys"},
     {"shortcuts", "keys"},
     {"help", "keys"},
     {"print", "report"},
     {"pdf", "report"},
     {"save", "export"},
     {"radio", "device"},
     {"rig", "device"},
     {"delete", "remove"},
     {"calculator", "level"},
     {"convert", "level"},
     {"simulator", "simulated"},
     {"chain", "hook-up"},
     {"cabling", "hook-up"},
     {"error", "uncertainty"},
     {"instrument", "connect"},
     {"exit", "quit"},
     {"job", "evaluation"},
     {"repair", "done"},
     {"work", "done"},
     {"copy", "duplicate"},
     {"specification", "card"},
     {"spec", "card"},
     {"picture", "photo"},
     {"published", "elsewhere"},
     {"review", "elsewhere"}}};
constexpr std::array kJoining{"a", "an", "the", "to", "of", "this", "my", "me", "it"};

}  // namespace

bool answers_to(const QString& name, const QString& typed) {
  const QStringList parts = typed.split(' ', Qt::SkipEmptyParts);
  return std::all_of(parts.begin(), parts.end(), [&](const QString& part) {
    if (name.contains(part, Qt::CaseInsensitive)) return true;
    if (parts.size() > 1 &&
        std::find(kJoining.begin(), kJoining.end(), part.toLower()) != kJoining.end())
      return true;
    return std::any_of(kOtherWords.begin(), kOtherWords.end(), [&](const auto& other) {
      // While it is typed its beginning is enough.
      return part.size() > 2 && QString(other.first).startsWith(part, Qt::CaseInsensitive) &&
             name.contains(other.second, Qt::CaseInsensitive);
    });
  });
}

bool begins_as(const QString& name, const QString& typed) {
  const QStringList words = name.split(QRegularExpression("[ ,:]+"), Qt::SkipEmptyParts);
  const QStringList parts = typed.split(' ', Qt::SkipEmptyParts);
  return std::all_of(parts.begin(), parts.end(), [&](const QString& part) {
    return std::any_of(words.begin(), words.end(), [&](const QString& word) {
      return word.startsWith(part, Qt::CaseInsensitive);
    });
  });
}

}  // namespace heron
