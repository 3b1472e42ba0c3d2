#include "app/shell/key_help.h"

#include <QObject>

namespace heron {

std::vector<std::pair<QString, QString>> keys_of(KeyPlace place) {
  const auto tr = [](const char* text) { return QObject::tr(text); };
  std::vector<std::pair<QString, QString>> keys;
  switch (place) {
    case KeyPlace::start:
    case KeyPlace::device:
      break;
    case KeyPlace::shack:
      keys = {{tr("Arrows"), tr("device and characteristic")},
              {tr("Return"), tr("opens the figure, or the evaluation of the device")},
              {tr("Menu key"), tr("what can be done with the device")}};
      break;
    case KeyPlace::sheet:
      keys = {
          {tr("Ctrl Return"), tr("what the orange button says: add, measure")},
          {tr("Ctrl 1 to 9"), tr("test of the plan")},
          {tr("F6"), tr("next part: plan, plot, table, right column")},
          {tr("F2, Alt Up, Alt Down"), tr("in the plan: renames a test, moves it")},
          {tr("Up, Down"), tr("row of the table; Return opens what a cell refers to")},
          {tr("Return, F2"), tr("types into a cell of the readings; ~ before it: provisional")},
          {tr("M, Shift M"),
           tr("in the receiver grid: measures the cell, all of its test; F2: what bands share")},
          {tr("Up, Down, Return"),
           tr("while you bring a receiver to a reading: generator by 1 dB, it is there")},
          {tr("+, \u2212, 0"), tr("zoom of the plot, and all of it")},
          {tr("X"), tr("axis logarithmic or linear, or from crossing to crossing")},
          {tr("[ and ]"), tr("sides of what is counted")},
          {tr("Ctrl U"), tr("uncertainty budget of the figure")},
          {tr("Ctrl H"), tr("its hook-up")},
          {tr("F8"), tr("marks an event while something is recorded")},
          {tr("Ctrl Shift C"), tr("copies the figure; Ctrl C the chosen rows")},
          {tr("Ctrl E"), tr("report as PDF")}};
      break;
    case KeyPlace::hookup:
      keys = {{tr("Left, Right"), tr("part of the chain")},
              {tr("Insert, Delete"), tr("adds a part, takes one out")},
              {tr("Ctrl Return"), tr("keeps the hook-up")},
              {tr("Ctrl H"), tr("back to the test")},
              {tr("F6"), tr("next part: plan, chain, table")}};
      break;
    case KeyPlace::bench:
      keys = {{tr("Up, Down"), tr("part or instrument")},
              {tr("Ctrl Return"), tr("what the orange button says")},
              {tr("F6"), tr("next part: list, fields, where it is used")}};
      break;
  }
  if (place == KeyPlace::device)
    keys = {{tr("Up, Down"), tr("device, or line of the specification")},
            {tr("F2, typing"), tr("types into a line; an emptied characteristic removes it")},
            {tr("Ctrl N"), tr("a new line; Ctrl Shift N: work done")},
            {tr("Return"), tr("in the history: opens the evaluation")},
            {tr("Delete"), tr("in the history: removes a figure from elsewhere")},
            {tr("Ctrl Return"), tr("starts an evaluation")},
            {tr("F6"), tr("next part: devices, lines, history, fields")}};
  const std::pair<QString, QString> everywhere[] = {
      {tr("Esc"), tr("RF off first; then stops what runs, then closes what is open")},
      {tr("F9"), tr("transmit timer: start, stop")},
      {tr("Ctrl K"), tr("finds every device, test and command")},
      {tr("Ctrl Z, Ctrl Shift Z"), tr("undo, redo")},
      {tr("Ctrl 0, Ctrl B"), tr("the shack, the bench")},
      {tr("Ctrl L"), tr("level converter")},
      {tr("Ctrl T"), tr("dark theme on or off")},
      {tr("Ctrl O, Ctrl Q"), tr("open a shack, quit")},
      {tr("F1"), tr("these keys")}};
  // Nothing transmits, and nothing can be undone, before a shack is open.
  const std::size_t from = place == KeyPlace::start ? 2 : 1;
  for (std::size_t i = from; i < std::size(everywhere); ++i)
    if (place != KeyPlace::start || (i != 3 && i != 4)) keys.push_back(everywhere[i]);
  // What takes RF away is read first.
  if (place != KeyPlace::start) keys.insert(keys.begin(), everywhere[0]);
  return keys;
}

}  // namespace heron
