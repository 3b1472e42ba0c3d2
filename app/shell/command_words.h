#pragma once

#include <QString>

namespace heron {

/// Whether a command's name answers to what somebody typed: every word of it, or another word for
/// the same; words that only join others do not count.
bool answers_to(const QString& name, const QString& typed);

/// Whether each word that was typed begins one of its words.
bool begins_as(const QString& name, const QString& typed);

}  // namespace heron
