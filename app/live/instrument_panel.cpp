#include "app/live/instrument_panel.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include "app/session/background_job.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/widget/words.h"
#include "core/error.h"
#include "core/read_text.h"

namespace heron {

InstrumentPanel::InstrumentPanel(LiveInstruments& bench, QWidget* window)
    : FloatingCard(tr("Instrument"), window),
      bench_(bench),
      state_(new Words({}, Type::body, Tone::slate)),
      name_(new QLineEdit),
      address_(new QLineEdit),
      profile_(new Chip(tr("Profile"))),
      connect_(new PushButton(tr("Connect and identify"), ButtonRank::secondary)),
      forget_(new PushButton(tr("Remove it"), ButtonRank::link)),
      look_(new PushButton(tr("Look for it"), ButtonRank::link)),
      found_(new QMenu(this)),
      line_(new QLineEdit),
      traffic_(new QPlainTextEdit) {
  setFixedWidth(448);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, kHead, 20, 16);
  column->setSpacing(6);
  state_->setWordWrap(true);
  column->addWidget(state_);
  const auto labelled = [&](const QString& label, QLineEdit* edit, const QString& hint,
                            PushButton* beside = nullptr) {
    auto* head = new QHBoxLayout;
    head->addWidget(new Words(label, Type::label, Tone::mute));
    head->addStretch();
    if (beside != nullptr) head->addWidget(beside);
    column->addLayout(head);
    edit->setPlaceholderText(hint);
    edit->setAccessibleName(label);
    edit->setFixedHeight(28);
    column->addWidget(edit);
  };
  labelled(tr("Name on this bench"), name_, tr("as you call it"));
  labelled(tr("Address"), address_, tr("192.168.1.20:5025, or /dev/ttyUSB0 9600"), look_);
  auto* row = new QHBoxLayout;
  row->addWidget(profile_);
  row->addStretch();
  row->addWidget(forget_);
  row->addWidget(connect_);
  column->addLayout(row);
  column->addSpacing(6);
  labelled(tr("Send"), line_, tr("*IDN?"));
  column->addWidget(new Words(tr("Traffic"), Type::label, Tone::mute));
  traffic_->setReadOnly(true);
  traffic_->setFixedHeight(150);
  traffic_->setFont(type_font(Type::figure_small));
  traffic_->setAccessibleName(tr("Traffic"));
  column->addWidget(traffic_);
  profile_->menu()->addAction(tr("Generic SCPI"), this, [this] {
    profile_text_.clear();
    profile_->set_value(tr("generic SCPI"));
  });
  profile_->menu()->addAction(tr("A profile file\u2026"), this, [this] {
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Profile"), {}, tr("Profiles (*.json)"));
    if (!path.isEmpty()) take_profile(path);
  });
  connect(connect_, &QAbstractButton::clicked, this,
          [this] { bench_.connect_to(role_, name_->text(), address_->text(), profile_text_); });
  connect(address_, &QLineEdit::returnPressed, connect_, &QAbstractButton::click);
  look_->setToolTip(tr(
      "Asks *IDN? on ports 5025 to 5044 of this computer and on its serial ports, nothing else"));
  connect(look_, &QAbstractButton::clicked, this, &InstrumentPanel::look);
  connect(forget_, &QAbstractButton::clicked, this, [this] { bench_.forget(role_); });
  connect(line_, &QLineEdit::returnPressed, this, [this] {
    bench_.say(role_, line_->text());
    line_->selectAll();
  });
  connect(&bench_, &LiveInstruments::changed, this, &InstrumentPanel::refresh);
  connect(&bench_, &LiveInstruments::traffic_changed, this, &InstrumentPanel::refresh_traffic);
  hide();
}

void InstrumentPanel::take_profile(const QString& path) {
  try {
    constexpr std::uintmax_t kLargestMb = 4;
    const std::string text = read_text(path.toStdString(), kLargestMb);
    const Profile profile = parse_profile(text, QFileInfo(path).fileName().toStdString());
    profile_text_ = qt_text(text);
    profile_->set_value(qt_text(profile.name));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

void InstrumentPanel::look() {
  if (job_ != nullptr) {
    job_->cancel();
    return;
  }
  auto found = std::make_shared<std::vector<FoundInstrument>>();
  job_ = new BackgroundJob(
      tr("looking for instruments"),
      [found, places = places_.empty() ? local_addresses() : places_](const Progress& progress,
                                                                      const std::stop_token& stop) {
        *found = find_instruments(places, progress, stop);
      },
      this);
  look_->setText(tr("Stop looking"));
  const auto end = [this] {
    job_->deleteLater();
    job_ = nullptr;
    look_->setText(tr("Look for it"));
  };
  connect(job_, &BackgroundJob::finished, this, [this, end, found] {
    end();
    offer(*found);
  });
  connect(job_, &BackgroundJob::cancelled, this, end);
  connect(job_, &BackgroundJob::failed, this,
          [this, end](const QString& what, const QString& todo) {
            end();
            emit failed(what, todo);
          });
  job_->start();
}

/// Who is chosen is connected in the panel's role.
void InstrumentPanel::offer(const std::vector<FoundInstrument>& found) {
  found_->clear();
  for (const FoundInstrument& f : found)
    found_->addAction(tr("%1 at %2").arg(qt_text(f.identity), qt_text(f.address)), this, [this, f] {
      address_->setText(qt_text(f.address));
      connect_->click();
    });
  if (found.empty()) {
    emit failed(tr("Nothing on this computer\u2019s ports says who it is."),
                tr("Switch it on, or type its address on the network"));
    return;
  }
  if (isVisible()) found_->popup(look_->mapToGlobal(QPoint(0, look_->height())));
}

void InstrumentPanel::open_for(Role role, QPoint at) {
  role_ = role;
  const LiveInstrument* i = bench_.find(role);
  const QString title = qt_text(std::string(role_kind(role).title));
  name_->setText(i == nullptr ? title : qt_text(i->known.name));
  address_->setText(i == nullptr ? QString() : qt_text(i->known.address));
  profile_text_ = i == nullptr ? QString() : qt_text(i->known.profile);
  profile_->set_value(tr("generic SCPI"));
  if (!profile_text_.isEmpty()) {
    try {
      profile_->set_value(qt_text(parse_profile(i->known.profile, "profile").name));
    } catch (const InputError&) {
      profile_->set_value(tr("a damaged profile"));
    }
  }
  refresh();
  refresh_traffic();
  setFixedHeight(layout()->totalHeightForWidth(width()));
  open_at(at - QPoint(width(), 0));
  address_->setFocus(Qt::OtherFocusReason);
}

void InstrumentPanel::refresh() {
  const LiveInstrument* i = bench_.find(role_);
  const QString title = qt_text(std::string(role_kind(role_).title));
  QString words =
      i == nullptr ? tr("%1: not connected.").arg(title) : tr("%1: %2.").arg(title, i->words);
  if (i != nullptr && !i->known.identity.empty()) words += " " + qt_text(i->known.identity);
  state_->setText(words);
  const bool is_real = !bench_.is_simulated();
  for (QWidget* w : {static_cast<QWidget*>(name_), static_cast<QWidget*>(address_),
                     static_cast<QWidget*>(profile_), static_cast<QWidget*>(connect_),
                     static_cast<QWidget*>(look_)})
    w->setEnabled(is_real);
  forget_->setVisible(is_real && i != nullptr);
  line_->setEnabled(i != nullptr);
}

void InstrumentPanel::refresh_traffic() {
  QString text;
  for (const TrafficLine& line : bench_.traffic(role_))
    text += (line.is_sent ? QString::fromUtf8("→ ") : QString::fromUtf8("← ")) +
            line.text.left(200) + "\n";
  if (text == traffic_->toPlainText()) return;
  traffic_->setPlainText(text);
  traffic_->moveCursor(QTextCursor::End);
}

}  // namespace heron
