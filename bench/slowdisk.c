// Loaded before the C library: every flush to disk takes SLOW_DISK_MS milliseconds longer.
#define _GNU_SOURCE
#include <dlfcn.h>
#include <stdlib.h>
#include <unistd.h>

static int slowly(const char *name, int file)
{
    int (*flush)(int) = dlsym(RTLD_NEXT, name);
    const char *longer = getenv("SLOW_DISK_MS");
    if (longer != NULL)
        usleep(1000 * atoi(longer));
    return flush(file);
}

int fsync(int file) { return slowly("fsync", file); }

int fdatasync(int file) { return slowly("fdatasync", file); }
