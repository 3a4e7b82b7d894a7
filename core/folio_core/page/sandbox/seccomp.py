"""System calls that a decoder may make: seccomp(2), by libseccomp, which knows their numbers on each processor."""

from __future__ import annotations

import ctypes
import errno

_FAIL_WITH = 0x00050000  # SCMP_ACT_ERRNO, seccomp_init(3); the error goes into the low bits
_ALLOW = 0x7FFF0000  # SCMP_ACT_ALLOW
_PR_SET_NO_NEW_PRIVS = 38  # prctl(2)

# Computing, memory, threads, reading files that are there, the sockets that are open already. No new socket, no
# program, no mount, no look into another process. An unknown call fails as on an older kernel, so that the C library
# takes the older one.
_COMPUTING = """
access arch_prctl brk clock_getres clock_gettime clock_nanosleep clone close close_range dup dup2 dup3 epoll_create1
epoll_ctl epoll_pwait epoll_wait eventfd2 exit exit_group faccessat faccessat2 fadvise64 fcntl fork fstat fstatfs futex
get_mempolicy getcpu getcwd getdents64 getegid geteuid getgid getpgrp getpid getppid getrandom getresgid getresuid
getrlimit getrusage gettid gettimeofday getuid ioctl kill lseek lstat madvise mbind membarrier mincore mlock mmap
mprotect mremap msync munlock munmap nanosleep newfstatat open openat pidfd_open pipe pipe2 poll ppoll prctl pread64
preadv prlimit64 pselect6 read readlink readlinkat readv recvfrom recvmsg restart_syscall rseq rt_sigaction
rt_sigpending rt_sigprocmask rt_sigreturn rt_sigsuspend rt_sigtimedwait sched_get_priority_max sched_get_priority_min
sched_getaffinity sched_getparam sched_getscheduler sched_setaffinity sched_setscheduler sched_yield select sendmsg
sendto set_robust_list set_tid_address setpriority setrlimit shutdown sigaltstack stat statfs statx sysinfo tgkill
time times umask uname vfork wait4 waitid write writev seccomp
"""
# A child that decodes one page is alone: it starts no process and stops none, and types into no terminal.
_OF_A_CHILD_NOT = "fork kill pidfd_open seccomp tkill vfork"


def allow_only_computing() -> bool:
    """For this process and all it starts, for good. False where the machine cannot."""
    return _loaded(_FAIL_WITH | errno.ENOSYS, _ALLOW, _COMPUTING)


def forbid_other_processes() -> bool:
    return _loaded(_ALLOW, _FAIL_WITH | errno.EPERM, _OF_A_CHILD_NOT, typing_forbidden=True)


class _ArgumentIs(ctypes.Structure):
    """scmp_arg_cmp of seccomp.h."""

    _fields_ = (
        ("argument", ctypes.c_uint),
        ("comparison", ctypes.c_int),
        ("a", ctypes.c_uint64),
        ("b", ctypes.c_uint64),
    )


_EQUAL = 4  # SCMP_CMP_EQ
_TYPE_INTO_TERMINAL = 0x5412  # TIOCSTI, ioctl_tty(2)


def _loaded(otherwise: int, action: int, names: str, *, typing_forbidden: bool = False) -> bool:
    library = _library
    if library is None:
        return False
    ctypes.CDLL(None).prctl(_PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0)
    rules = ctypes.c_void_p(library.seccomp_init(ctypes.c_uint32(otherwise)))
    try:
        for name in names.split():
            number = library.seccomp_syscall_resolve_name(name.encode())
            if number >= 0:  # others are not of this processor
                library.seccomp_rule_add(rules, ctypes.c_uint32(action), ctypes.c_int(number), ctypes.c_uint(0))
        if typing_forbidden:
            number = library.seccomp_syscall_resolve_name(b"ioctl")
            only = _ArgumentIs(1, _EQUAL, _TYPE_INTO_TERMINAL, 0)
            library.seccomp_rule_add_array(
                rules, ctypes.c_uint32(action), ctypes.c_int(number), ctypes.c_uint(1), ctypes.byref(only)
            )
        return bool(library.seccomp_load(rules) == 0)
    finally:
        library.seccomp_release(rules)


def _open_library() -> ctypes.CDLL | None:
    try:
        library = ctypes.CDLL("libseccomp.so.2")
    except OSError:
        return None
    library.seccomp_init.restype = ctypes.c_void_p
    return library


_library = _open_library()
