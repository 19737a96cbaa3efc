// Telling progress, and stopping where the listener asks for it.

#include <firnfield/progress.hpp>

#include <firnfield/error.hpp>

namespace firnfield {

void announce(const ProgressCallback& listener, const Progress& progress) {
    if (listener && !listener(progress)) throw Cancelled();
}

ProgressCallback of_study(const ProgressCallback& listener, const std::string& study) {
    if (!listener) return {};
    return [listener, study](Progress progress) {
        progress.study = study;
        return listener(progress);
    };
}

}  // namespace firnfield
