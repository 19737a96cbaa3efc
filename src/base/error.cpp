// Errors with their problems as one text.

#include <firnfield/error.hpp>

namespace firnfield {
namespace {

std::string join_problems(const std::vector<Problem>& problems) {
    std::string text;
    for (const Problem& problem : problems) {
        if (!text.empty()) text += '\n';
        const std::string& place = problem.location.empty() ? problem.address : problem.location;
        if (!place.empty()) text += place + ": ";
        text += problem.message;
    }
    return text;
}

}  // namespace

ModelError::ModelError(std::vector<Problem> problems) : Error(join_problems(problems)), problems_(std::move(problems)) {}

ModelError::ModelError(std::string address, std::string message)
    : ModelError(std::vector<Problem>{{.address = std::move(address), .message = std::move(message), .location = {}}}) {}

}  // namespace firnfield
