// How a function says that it could not do what was asked. Three kinds are kept apart: a bug asserts or throws; bad
// input or environment is an Error with a message for the user; cancelled work is an Error of its own kind.
#pragma once

#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <utility>

namespace zither::mesh {

enum class ErrorKind { BadInput, Environment, Cancelled };

// What a program tells errors apart by; stable.
namespace errorcode {
inline constexpr std::string_view badInput = "bad-input";          // what was asked for makes no sense here
inline constexpr std::string_view unreadable = "unreadable-file";  // its content is none that can be read
inline constexpr std::string_view badParameter = "bad-parameter";  // of a step, a recipe or a brief
inline constexpr std::string_view environment = "environment";     // files, folders, permissions, disks
inline constexpr std::string_view memory = "not-enough-memory";
inline constexpr std::string_view fault = "fault";  // a bug that was caught at the edge of a job
inline constexpr std::string_view cancelled = "cancelled";
}  // namespace errorcode

struct [[nodiscard]] Error {
    ErrorKind kind = ErrorKind::BadInput;
    std::string message;  // what, where, and what to do; one sentence or two, no full stop needed by the caller
    std::string_view code = errorcode::badInput;
    std::string place = {};  // the file, step or parameter that it is about; empty where that is the call itself

    [[nodiscard]] bool cancelled() const { return kind == ErrorKind::Cancelled; }
};

// A value, or why there is none; not to be passed over.
template <class T>
class [[nodiscard]] Outcome : public tl::expected<T, Error> {
public:
    using Base = tl::expected<T, Error>;
    using Base::Base;
    Outcome() = default;
    Outcome(Base&& base) : Base(std::move(base)) {}  // NOLINT: an expected is an outcome
};

inline tl::unexpected<Error> badInput(std::string message, std::string_view code = errorcode::badInput,
                                      std::string place = {}) {
    return tl::unexpected(Error{ErrorKind::BadInput, std::move(message), code, std::move(place)});
}
inline tl::unexpected<Error> environment(std::string message, std::string_view code = errorcode::environment,
                                         std::string place = {}) {
    return tl::unexpected(Error{ErrorKind::Environment, std::move(message), code, std::move(place)});
}
inline tl::unexpected<Error> cancelled() {
    return tl::unexpected(Error{ErrorKind::Cancelled, "Cancelled", errorcode::cancelled, {}});
}

// The error of an outcome that has one, handed on: `if (!read) return mesh::errorOf(read);`.
template <class T>
tl::unexpected<Error> errorOf(const tl::expected<T, Error>& failed) {
    return tl::unexpected(failed.error());
}

}  // namespace zither::mesh
