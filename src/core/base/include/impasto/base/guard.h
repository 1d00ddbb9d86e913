// SPDX-License-Identifier: GPL-3.0-or-later
// The barrier around every job: an exception that a fault or a lack of memory throws becomes an error.
#pragma once

#include <exception>
#include <impasto/base/error.h>
#include <new>
#include <stdexcept>
#include <utility>

namespace impasto {

/// What `work` gives, a Result; OutOfMemory or Internal (what: the exception's words) where it throws.
template <class Work>
auto guarded(Work&& work) -> decltype(std::forward<Work>(work)()) {
    try {
        return std::forward<Work>(work)();
    } catch (const std::bad_alloc&) {
        return fail(ErrorCode::OutOfMemory);
    } catch (const std::length_error&) { // a container asked for more than there can be
        return fail(ErrorCode::OutOfMemory);
    } catch (const std::exception& fault) {
        return fail(ErrorCode::Internal, fault.what());
    }
}

} // namespace impasto
