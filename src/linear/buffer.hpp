/// Vectors whose new elements are left as they are, where all of them are written anyway.
#pragma once

#include <memory>
#include <utility>
#include <vector>

namespace firnfield {

template <typename T>
struct UninitialisedAllocator : std::allocator<T> {
    template <typename U>
    struct rebind {
        using other = UninitialisedAllocator<U>;
    };
    template <typename U, typename... Arguments>
    void construct(U* at, Arguments&&... arguments) {
        if constexpr (sizeof...(Arguments) == 0) {
            ::new (static_cast<void*>(at)) U;
        } else {
            ::new (static_cast<void*>(at)) U(std::forward<Arguments>(arguments)...);
        }
    }
};

template <typename T>
using Buffer = std::vector<T, UninitialisedAllocator<T>>;

}  // namespace firnfield
