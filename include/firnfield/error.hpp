/// Errors thrown at the border of the library. Everything derives from firnfield::Error.
#pragma once

#include <stdexcept>
#include <string>
#include <vector>

namespace firnfield {

/// Base of every exception the library throws on purpose.
class Error : public std::runtime_error {
public:
    using std::runtime_error::runtime_error;
};

/// A quantity text such as "25 mW" that cannot be understood. `column` counts from 1 inside that text.
class QuantityError : public Error {
public:
    QuantityError(std::string message, std::size_t column_) : Error(std::move(message)), column(column_) {}
    std::size_t column = 1;
};

/// One mistake in a model: where it stands and what to write instead.
struct Problem {
    /// Place in the model, for example "part[2].size" (counted from 0).
    std::string address{};
    /// What was found, what is expected, and the nearest known word where there is one.
    std::string message{};
    /// File, line and column ("radar.toml:12:8"), when the model was read from a file.
    std::string location{};

    bool operator==(const Problem&) const = default;
};

/// A model that cannot be used. Carries every mistake found, not just the first.
class ModelError : public Error {
public:
    explicit ModelError(std::vector<Problem> problems);
    /// Convenience for a single mistake.
    ModelError(std::string address, std::string message);
    [[nodiscard]] const std::vector<Problem>& problems() const { return problems_; }

private:
    std::vector<Problem> problems_{};
};

/// The computation did not reach an answer. The input may be fine.
class ComputationError : public Error {
public:
    using Error::Error;
};

/// The computation was stopped from outside, by the progress callback.
class Cancelled : public Error {
public:
    Cancelled() : Error("stopped before the end, as asked") {}
};

/// A file or folder that cannot be read, or is not what it should be.
class FileError : public Error {
public:
    using Error::Error;
};

/// Something that cannot be written: a full disk, a closed stream, no permission.
class WriteError : public FileError {
public:
    using FileError::FileError;
};

}  // namespace firnfield
