#pragma once

#include <QPainter>
#include <QString>

#include "core/method/result.h"

namespace heron {

inline constexpr QSizeF kCardMm{85.0, 54.0};

/// Black on white, in a frame of that size; lengths in `box` are points.
void draw_print_card(QPainter& p, const QRectF& box, const PrintCard& card, const QString& device,
                     const QString& date);
/// One page of the card's size. Throws what a file that cannot be written throws.
void write_card_pdf(const PrintCard& card, const QString& device, const QString& date,
                    const QString& path);

}  // namespace heron
