#pragma once

#include "app/live/reading_keeper.h"
#include "core/method/run_recipe.h"

namespace heron {

/// What a voltmeter showed behind a receiver, as somebody would have typed it.
class HeardKeeper : public ReadingKeeper {
 public:
  explicit HeardKeeper(RunRecipe::Listen listen) : listen_(std::move(listen)) {}
  Kept keep(const TakenStep& taken) override;

 private:
  RunRecipe::Listen listen_;
};

}  // namespace heron
