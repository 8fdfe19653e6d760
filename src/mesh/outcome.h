// How a function says that it could not do what was asked. Three kinds are kept apart: a bug asserts or throws; bad
// input or environment is an Error with a message for the user; cancelled work is an Error of its own kind.
#pragma once

#include <string>
#include <tl/expected.hpp>

namespace zither::mesh {

enum class ErrorKind { BadInput, Environment, Cancelled };

struct Error {
    ErrorKind kind = ErrorKind::BadInput;
    std::string message;  // what, where, and what to do; one sentence or two, no full stop needed by the caller

    [[nodiscard]] bool cancelled() const { return kind == ErrorKind::Cancelled; }
};

template <class T>
using Outcome = tl::expected<T, Error>;

inline tl::unexpected<Error> badInput(std::string message) {
    return tl::unexpected(Error{ErrorKind::BadInput, std::move(message)});
}
inline tl::unexpected<Error> environment(std::string message) {
    return tl::unexpected(Error{ErrorKind::Environment, std::move(message)});
}
inline tl::unexpected<Error> cancelled() {
    return tl::unexpected(Error{ErrorKind::Cancelled, "Cancelled"});
}

}  // namespace zither::mesh
