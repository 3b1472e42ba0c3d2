#include "store/evaluator.h"

#include <algorithm>

#include "core/error.h"

namespace heron {

Evaluator::Evaluator(const Shack& shack, std::function<void()> told)
    : shack_(shack.reader()),
      told_(std::move(told)),
      thread_([this](const std::stop_token& stop) { run(stop); }) {}

Evaluator::~Evaluator() = default;

void Evaluator::ask(Id test, bool is_changed) {
  {
    const std::scoped_lock lock(mutex_);
    const auto replace = [&](auto& all) {
      std::erase_if(all, [&](const auto& one) {
        if (one.test != test) return false;
        is_changed = is_changed || one.is_changed;
        return true;
      });
    };
    replace(waiting_);
    replace(done_);
    if (under_way_.test == test) {
      is_changed = is_changed || under_way_.is_changed;
      under_way_ = {};
    }
    waiting_.push_front({test, is_changed});
  }
  wake_.notify_all();
}

std::vector<Evaluator::Done> Evaluator::take() {
  const std::scoped_lock lock(mutex_);
  return std::exchange(done_, {});
}

bool Evaluator::wait(std::chrono::milliseconds at_most) {
  std::unique_lock lock(mutex_);
  return wake_.wait_for(lock, at_most, [this] { return waiting_.empty() && !is_working_; });
}

bool Evaluator::is_busy() const {
  const std::scoped_lock lock(mutex_);
  return !waiting_.empty() || is_working_;
}

void Evaluator::run(const std::stop_token& stop) {
  while (true) {
    Request request;
    {
      std::unique_lock lock(mutex_);
      if (!wake_.wait(lock, stop, [this] { return !waiting_.empty(); }) || stop.stop_requested())
        return;
      request = waiting_.front();
      waiting_.pop_front();
      under_way_ = request;
      is_working_ = true;
    }
    Done done = work_out(request);
    {
      const std::scoped_lock lock(mutex_);
      if (under_way_.test != 0) done_.push_back(std::move(done));
      under_way_ = {};
      is_working_ = false;
    }
    wake_.notify_all();
    told_();
  }
}

Evaluator::Done Evaluator::work_out(const Request& request) const {
  Done done{request.test, request.is_changed, std::nullopt, {}, {}};
  try {
    shack_->read_together([&] { done.loaded = load_test(*shack_, request.test); });
    if (done.loaded && request.is_changed) done.loaded->test.headline = headline_of(*done.loaded);
  } catch (const InputError& error) {
    done.failure = error.what_happened();
    done.advice = error.advice;
  } catch (const std::exception& error) {  // nothing that a record holds may end the program
    done.failure = std::string("This test cannot be worked out (") + error.what() + ")";
    done.advice = "Undo the last change, or restore the shack from a copy";
  }
  return done;
}

}  // namespace heron
