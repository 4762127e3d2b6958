"""What a process that reads a stranger's file may still do: read the programs, use one folder, and nothing else.

Files by Landlock, network and new programs by seccomp, both of Linux, each where the system has it; both hold for the
process that asks for them, and for what it starts, until it ends.
"""

from __future__ import annotations

import ctypes
import os
import platform
import struct
import sys
import sysconfig
from contextlib import suppress
from pathlib import Path

LANDLOCK_CREATE, LANDLOCK_ADD, LANDLOCK_RESTRICT = 444, 445, 446
EXECUTE, WRITE_FILE, READ_FILE, READ_DIR = 1 << 0, 1 << 1, 1 << 2, 1 << 3
ALL_OF_VERSION = {1: (1 << 13) - 1, 2: (1 << 14) - 1, 3: (1 << 15) - 1}
"""Rights on files that versions of Landlock know; later ones know (1 << 16) - 1."""
IOCTL_DEV = 1 << 15
TCP = 0b11
O_PATH = 0o10000000
NO_NEW_PRIVILEGES, SECCOMP = 38, 317
ARCHITECTURES = {"x86_64": 0xC000003E, "aarch64": 0xC00000B7}
BARRED = {
    # socket, connect, bind, listen, socketpair; execve, execveat; ptrace, process_vm_readv and _writev; mount, keyctl, bpf
    "x86_64": (41, 42, 49, 50, 59, 322, 101, 310, 311, 165, 250, 321),
    "aarch64": (198, 203, 200, 201, 221, 281, 117, 270, 271, 40, 219, 280),
}
_libc = ctypes.CDLL(None, use_errno=True)


def programs() -> list[Path]:
    """Where the interpreter, its packages and the system's libraries lie."""
    loops = sys.modules.get("barequill.core.geometry.compiled")
    # where their machine code is kept, which may be outside the package
    kept = [str(loops.SHELF)] if loops is not None else []
    named = [
        *kept,
        sys.prefix,
        sys.base_prefix,
        *sysconfig.get_paths().values(),
        str(Path(__file__).parents[2]),
    ]
    system = ["/usr", "/lib", "/lib64", "/opt/venv", "/etc/ld.so.cache", "/dev/null", "/dev/urandom", "/proc/self"]
    system += ["/proc/cpuinfo", "/proc/meminfo", "/proc/stat", "/sys/devices/system/cpu"]
    return [Path(p) for p in dict.fromkeys([*named, *system]) if Path(p).exists()]


def landlock_version() -> int:
    """The version of Landlock that the system has, 0 for none."""
    return max(0, _libc.syscall(LANDLOCK_CREATE, None, 0, 1))


def confine_files(reading: list[Path], using: list[Path]) -> bool:
    """From now on this thread, and those that it starts, can read below ``reading`` and do all below ``using`` only.

    Returns
    -------
    False where the system cannot do that.
    """
    version = landlock_version()
    if version < 1:
        return False
    rights = ALL_OF_VERSION.get(version, (1 << 16) - 1)
    network = TCP if version >= 4 else 0
    attribute = struct.pack("QQ", rights, network) if network else struct.pack("Q", rights)
    rules = _libc.syscall(LANDLOCK_CREATE, attribute, len(attribute), 0)
    if rules < 0:
        return False
    try:
        read = EXECUTE | READ_FILE | READ_DIR
        for path, allowed in [*((p, read) for p in reading), *((p, rights & ~IOCTL_DEV) for p in using)]:
            with suppress(OSError):
                handle = os.open(path, O_PATH | os.O_CLOEXEC)
                try:
                    own = allowed if path.is_dir() else allowed & (EXECUTE | WRITE_FILE | READ_FILE)
                    rule = struct.pack("=Qi", own, handle)
                    _libc.syscall(LANDLOCK_ADD, rules, 1, rule, 0)
                finally:
                    os.close(handle)
        _libc.prctl(NO_NEW_PRIVILEGES, 1, 0, 0, 0)
        return bool(_libc.syscall(LANDLOCK_RESTRICT, rules, 0) == 0)
    finally:
        os.close(rules)


def bar_calls() -> bool:
    """From now on this process, all its threads, makes no connection and starts no other program.

    Returns
    -------
    False where the system cannot do that.
    """
    machine = platform.machine()
    if machine not in BARRED:
        return False

    def line(code: int, yes: int, no: int, value: int) -> bytes:
        return struct.pack("HBBI", code, yes, no, value)

    load, equal, give = 0x20, 0x15, 0x06
    refused, allowed = 0x00050000 | 13, 0x7FFF0000
    barred = BARRED[machine]
    # the machine's own calls only; what is barred is answered with "permission denied"
    program = [
        line(load, 0, 0, 4),
        line(equal, 1, 0, ARCHITECTURES[machine]),
        line(give, 0, 0, refused),
        line(load, 0, 0, 0),
    ]
    for k, call in enumerate(barred):
        program.append(line(equal, len(barred) - k, 0, call))
    program += [line(give, 0, 0, allowed), line(give, 0, 0, refused)]
    text = ctypes.create_string_buffer(b"".join(program))
    filters = struct.pack("HxxxxxxP", len(program), ctypes.addressof(text))
    if _libc.prctl(NO_NEW_PRIVILEGES, 1, 0, 0, 0):
        return False
    return bool(_libc.syscall(SECCOMP if machine == "x86_64" else 277, 1, 1, filters) == 0)


def confined_by() -> str:
    """By what of this system readers are confined, in words."""
    found = [
        name
        for name, there in (("Landlock", landlock_version() > 0), ("seccomp", platform.machine() in BARRED))
        if there
    ]
    return " and ".join(found) if found else "nothing: files that part files name are not followed all the same"
