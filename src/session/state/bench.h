// What most of a session works with: what is open, how it looks, where work runs, what is told, and how
// the user wants it.
#pragma once

namespace zither::session {

class Jobs;
class Looks;
class Notice;
class Parts;
class Preferences;

// All of it belongs to the workshop, and outlives whoever is given it. A piece of the session is made of the bench and
// of the other pieces that it needs, each named; it keeps what it uses.
struct Bench {
    Parts& parts;
    Looks& looks;
    Jobs& jobs;
    Notice& notice;
    const Preferences& preferences;
};

}  // namespace zither::session
