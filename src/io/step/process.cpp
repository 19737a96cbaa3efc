// A child process that hands its bytes over a pipe.

#include "io/step/process.hpp"

#include <firnfield/error.hpp>

#include <array>
#include <cerrno>
#include <csignal>
#include <cstdlib>

#include <fcntl.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace firnfield::step {

Answer apart(const std::function<std::string()>& work, unsigned seconds, [[maybe_unused]] std::uintmax_t memory) {
    std::array<int, 2> ends{};
    if (pipe(ends.data()) != 0) throw Error("no process can be started to read the file in");
    const pid_t child = fork();
    if (child < 0) throw Error("no process can be started to read the file in");
    if (child == 0) {
        close(ends[0]);
        if (const int nowhere = open("/dev/null", O_WRONLY); nowhere >= 0) {
            dup2(nowhere, STDOUT_FILENO);
            dup2(nowhere, STDERR_FILENO);
        }
        for (const int fatal : {SIGSEGV, SIGABRT, SIGBUS, SIGFPE}) std::signal(fatal, SIG_DFL);
        const rlimit time{seconds, seconds}, core{0, 0};
        setrlimit(RLIMIT_CPU, &time);
        setrlimit(RLIMIT_CORE, &core);
#ifndef FIRNFIELD_SANITIZED  // a sanitizer takes terabytes of addresses
        const rlimit space{memory, memory};
        setrlimit(RLIMIT_AS, &space);
#endif
        std::string bytes;
        try {
            bytes = work();
        } catch (...) {
            _exit(EXIT_FAILURE);
        }
        for (std::size_t at = 0; at < bytes.size();) {
            const ssize_t count = write(ends[1], bytes.data() + at, bytes.size() - at);
            if (count <= 0) _exit(EXIT_FAILURE);
            at += static_cast<std::size_t>(count);
        }
        _exit(EXIT_SUCCESS);
    }
    close(ends[1]);
    Answer out;
    int status = 0;
    std::array<char, 65536> block{};
    for (ssize_t count = 1; count != 0;) {
        count = read(ends[0], block.data(), block.size());
        if (count > 0) out.bytes.append(block.data(), static_cast<std::size_t>(count));
        if (count < 0 && errno != EINTR) break;
    }
    close(ends[0]);
    while (waitpid(child, &status, 0) < 0 && errno == EINTR) {
    }
    out.done = WIFEXITED(status) && WEXITSTATUS(status) == EXIT_SUCCESS;
    out.too_slow = WIFSIGNALED(status) && WTERMSIG(status) == SIGXCPU;
    return out;
}

}  // namespace firnfield::step
