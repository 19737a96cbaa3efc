// Finds and loads the library of the CAD kernel.

#include <firnfield/error.hpp>

#include "io/step/kernel.hpp"

#include <fmt/format.h>

#include <dlfcn.h>

namespace firnfield::step {
namespace {

/// Beside the program or library that this code is part of, in the lib folder beside its folder, or where it was built or installed.
std::vector<std::filesystem::path> places() {
    std::vector<std::filesystem::path> out;
    Dl_info here{};
    static const char anchor = 0;
    if (dladdr(&anchor, &here) != 0 && here.dli_fname != nullptr) {
        std::error_code status;
        std::filesystem::path self = std::filesystem::canonical(here.dli_fname, status);
        if (status) self = std::filesystem::canonical("/proc/self/exe", status);
        out.push_back(self.parent_path());
        out.push_back(self.parent_path().parent_path() / FIRNFIELD_LIBRARY_FOLDER);
    }
    out.emplace_back(FIRNFIELD_STEP_BUILT_IN);
    out.emplace_back(FIRNFIELD_STEP_INSTALLED_IN);
    return out;
}

const Kernel* load() {
    const std::string name = FIRNFIELD_STEP_LIBRARY;
    std::string why;
    for (const std::filesystem::path& folder : places()) {
        std::error_code status;
        const std::filesystem::path file = folder / name;
        if (!std::filesystem::exists(file, status)) continue;
        void* library = dlopen(file.c_str(), RTLD_LAZY | RTLD_LOCAL);  // never closed: solids of it live on
        if (library == nullptr) {
            why = dlerror();
            continue;
        }
        using Entry = const Kernel* (*)();
        if (const auto entry = reinterpret_cast<Entry>(dlsym(library, "firnfield_step_kernel"))) return entry();
        why = fmt::format("{} is not what its name says", file.string());
    }
    throw Error(fmt::format("STEP files need {}, which is {}", name, why.empty() ? "not beside the program" : "there but cannot be loaded: " + why));
}

}  // namespace

const Kernel& kernel() {
    static const Kernel* const loaded = load();
    return *loaded;
}

}  // namespace firnfield::step
