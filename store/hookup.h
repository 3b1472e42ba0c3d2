#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "store/shack.h"

namespace heron {

/// A named hook-up, reused between tests.
struct Hookup {
  Id id = 0;
  std::string name;
};

/// What it was at a time. Recordings keep the version they were taken on.
struct HookupVersion {
  Id id = 0;
  Id hookup_id = 0;
  std::string name;  ///< of the hook-up
  int number = 1;
  Chain chain;
  std::string made_at;
};

/// A test that uses a hook-up.
struct HookupUse {
  Id test_id = 0;
  Id evaluation_id = 0;
  std::string device;
  std::string test;
  int figures = 0;  ///< recordings taken on any version of it
};

std::vector<Hookup> hookups(const Shack& shack);
Id add_hookup(Shack& shack, const std::string& name, const Chain& chain);
void rename_hookup(Shack& shack, Id id, const std::string& name);
void set_hookup_removed(Shack& shack, Id id, bool removed);
std::vector<HookupUse> hookup_uses(const Shack& shack, Id hookup);

HookupVersion latest_version(const Shack& shack, Id hookup);
/// nullopt if its record is damaged.
std::optional<HookupVersion> readable_version(const Shack& shack, Id hookup);
HookupVersion hookup_version(const Shack& shack, Id version);
/// Whether a recording was taken on it.
bool is_version_used(const Shack& shack, Id version);

/// How a chain was saved, so that it can be taken back.
struct SavedChain {
  Id version_id = 0;
  bool is_new_version = false;
  std::optional<Chain> before;  ///< of the version that was written over
};
/// A version that recordings were taken on is never altered: a new one is made. Another one is
/// written over.
SavedChain save_chain(Shack& shack, Id hookup, const Chain& chain);
/// Takes it back.
void unsave_chain(Shack& shack, const SavedChain& saved);

/// Somebody vouched for keying into a chain that is not safe.
struct Vouched {
  std::string by;
  std::string why;
  std::string at;
  double pep_dbm = 0.0;  ///< the drive it holds for, and anything below
  Id version_id = 0;
};
/// Kept for good: neither undo nor a new version takes it out of the record.
Id vouch(Shack& shack, Id test, const Vouched& vouched);
std::vector<Vouched> all_vouched(const Shack& shack, Id test);

/// What was built of a hook-up (0 = a new one) and not used yet; nullopt = nothing, or damaged.
std::optional<Chain> hookup_draft(const Shack& shack, Id hookup);
void keep_hookup_draft(Shack& shack, Id hookup, const Chain& chain);
void drop_hookup_draft(Shack& shack, Id hookup);

}  // namespace heron
