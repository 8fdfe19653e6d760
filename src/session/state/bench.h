// What most of a session works with: what is open, how it looks, where work runs, and what is told.
#pragma once

namespace zither::session {

class Jobs;
class Looks;
class Notice;
class Parts;

// All of it belongs to the workshop, and outlives whoever is given it.
struct Bench {
    Parts& parts;
    Looks& looks;
    Jobs& jobs;
    Notice& notice;
};

}  // namespace zither::session
