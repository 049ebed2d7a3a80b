/* SPDX-License-Identifier: MIT */
/* Who uses a device, on a host of our own making: every kind of stack, and what
 * only looks like one. The port reads its /sys, /proc and /dev in a folder. */
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <sys/stat.h>
#include <unistd.h>

#include <trueslate/port_linux.h>

#include "check.h"
#include "program.h"

/* These stand in for port/linux/path.c. */
bool linux_path(char *path, size_t room, const char *format, ...);
bool linux_block_numbers(const char *place, char numbers[32]);
bool linux_same_file(const char *a, const char *b);

bool linux_path(char *path, size_t room, const char *format, ...)
{
    int used = snprintf(path, room, "%s/host", program_folder());
    va_list arguments;

    va_start(arguments, format);
    used += vsnprintf(path + used, room - (size_t)used, format, arguments);
    va_end(arguments);
    return (size_t)used < room;
}

/* A node of the host is a file with its numbers. */
bool linux_block_numbers(const char *place, char numbers[32])
{
    char path[512];
    FILE *file = linux_path(path, sizeof path, "%s", place) &&
                         strncmp(place, "/dev/", 5) == 0
                     ? fopen(path, "r")
                     : NULL;
    bool found = file != NULL && fscanf(file, "%31s", numbers) == 1;

    if (file != NULL)
        fclose(file);
    return found;
}

bool linux_same_file(const char *a, const char *b)
{
    return strcmp(a, b) == 0;
}

static void put(const char *path, const char *content)
{
    char place[512];
    FILE *file;

    assert_true(linux_path(place, sizeof place, "%s", path));
    for (char *slash = strchr(place + 1, '/'); slash != NULL;
         slash = strchr(slash + 1, '/')) {
        *slash = '\0';
        (void)mkdir(place, 0777);
        *slash = '/';
    }
    file = fopen(place, "a");
    assert_non_null(file);
    fputs(content, file);
    fclose(file);
}

static void put_block(const char *folder, const char *name, int major,
                      int minor)
{
    char path[256], numbers[32];

    snprintf(numbers, sizeof numbers, "%d:%d\n", major, minor);
    snprintf(path, sizeof path, "%s/dev", folder);
    put(path, numbers);
    snprintf(path, sizeof path, "/dev/%s", name);
    put(path, numbers);
}

static void put_disk(const char *name, int major, int minor)
{
    char folder[128], path[256];

    snprintf(folder, sizeof folder, "/sys/block/%s", name);
    put_block(folder, name, major, minor);
    snprintf(path, sizeof path, "%s/size", folder);
    put(path, "31260672\n");
}

static void put_part(const char *disk, int number, int major, int minor)
{
    char name[64], folder[160], path[256];

    snprintf(name, sizeof name, "%s%d", disk, number);
    snprintf(folder, sizeof folder, "/sys/block/%s/%s", disk, name);
    put_block(folder, name, major, minor);
    snprintf(path, sizeof path, "%s/partition", folder);
    put(path, "1\n");
}

static void put_holder(const char *on, const char *holder)
{
    char path[256];

    snprintf(path, sizeof path, "/sys/block/%s/holders/%s/x", on, holder);
    put(path, "");
}

static void put_loop(int number, const char *backing)
{
    char name[16], path[128];

    snprintf(name, sizeof name, "loop%d", number);
    put_disk(name, 7, number);
    snprintf(path, sizeof path, "/sys/block/%s/loop/backing_file", name);
    put(path, backing);
    put(path, "\n");
}

static void put_mount(const char *numbers, const char *place, const char *kind,
                      const char *source, const char *options)
{
    char line[1024];

    snprintf(line, sizeof line,
             "36 1 %s / %s rw,relatime shared:1 - %s %s %s\n", numbers, place,
             kind, source, options);
    put("/proc/self/mountinfo", line);
}

static void plain_mount(void)
{
    put_mount("8:17", "/media/a\\040stick", "vfat", "/dev/sdb1", "rw");
}

static void near_names(void)
{
    put_part("sdb", 11, 8, 27);
    put_disk("sdba", 65, 16);
    put_mount("8:27", "/media/eleven", "ext4", "/dev/sdb11", "rw");
    put_mount("65:16", "/media/other", "ext4", "/dev/sdba", "rw");
}

static void given_up(void)
{
    put_mount("8:17", "/media/stick", "ext4", "/dev/sdb1", "ro,errors=ro");
}

static void anonymous_root(void)
{
    put_mount("0:29", "/", "btrfs", "/dev/sdb1", "rw,subvol=/@");
}

static void anonymous_fellow(void)
{
    put_disk("sdc", 8, 32);
    put_mount("0:29", "/home", "btrfs", "/dev/sdc", "rw");
    put("/sys/fs/btrfs/5cf2-11/devices/sdc/x", "");
    put("/sys/fs/btrfs/5cf2-11/devices/sdb1/x", "");
}

static void anonymous_stranger(void)
{
    put_disk("sdc", 8, 32);
    put_mount("0:29", "/home", "btrfs", "/dev/sdc", "rw");
    put("/sys/fs/btrfs/5cf2-11/devices/sdc/x", "");
    put("/sys/fs/btrfs/77aa-02/devices/sdb1/x", "");
}

static void overlay_root(void)
{
    put_mount("8:17", "/run/live", "ext4", "/dev/sdb1", "rw");
    put_mount("0:40", "/", "overlay", "overlay",
              "rw,lowerdir=/run/live/root:/lib,upperdir=/run/ram/up,"
              "workdir=/run/ram/work");
}

static void live_image(void)
{
    put_mount("8:17", "/run/live", "vfat", "/dev/sdb1", "rw");
    put_loop(3, "/run/live/system.image");
    put_mount("7:3", "/run/system", "squashfs", "/dev/loop3", "ro");
    put_mount("0:40", "/", "overlay", "overlay",
              "rw,lowerdir=/run/system,upperdir=/run/ram/up,workdir=/run/w");
}

static void loop_over_device(void)
{
    put_loop(2, "/dev/sdb1");
    put_part("loop2", 1, 259, 1);
    put_mount("259:1", "/media/inner", "ext4", "/dev/loop2p1", "rw");
}

static void loop_over_file(void)
{
    put_mount("8:17", "/media/stick", "vfat", "/dev/sdb1", "rw");
    put_loop(2, "/media/stick/images/card.img");
    put_mount("7:2", "/mnt/card", "vfat", "/dev/loop2", "rw");
}

static void loop_over_another_file(void)
{
    put_mount("8:17", "/media/stick", "vfat", "/dev/sdb1", "rw");
    put_mount("8:33", "/media/stick/below", "vfat", "/dev/sdc1", "rw");
    put_loop(1, "/media/stick2/card.img");
    put_loop(2, "/media/stick/below/card.img");
}

static void mapping(void)
{
    put_holder("sdb/sdb1", "dm-0");
    put_disk("dm-0", 253, 0);
    put("/sys/block/dm-0/dm/name", "station\n");
    put_mount("253:0", "/srv", "ext4", "/dev/mapper/station", "rw");
}

static void deep(void)
{
    put_holder("sdb/sdb1", "md0");
    put_disk("md0", 9, 0);
    put_part("md0", 1, 259, 4);
    put_holder("md0/md01", "dm-2");
    put_disk("dm-2", 253, 2);
    put("/sys/block/dm-2/dm/name", "tides\n");
    put_mount("253:2", "/srv", "ext4", "/dev/mapper/tides", "rw");
    put_loop(5, "/srv/old.img");
    put("/proc/swaps", "Filename Type Size Used Priority\n/dev/loop5 "
                       "partition 8 0 -2\n");
}

static void swap_partition(void)
{
    put("/proc/swaps", "Filename Type Size Used Priority\n/dev/sdb1 "
                       "partition 8388604 0 -2\n");
}

static void swap_on_mapping(void)
{
    put_holder("sdb/sdb1", "dm-0");
    put_disk("dm-0", 253, 0);
    put("/sys/block/dm-0/dm/name", "swap\n");
    put("/dev/mapper/swap", "253:0");
    put("/proc/swaps", "Filename Type\n/dev/mapper/swap partition 8 0 -2\n");
}

static void swap_file(void)
{
    put_mount("8:17", "/media/stick", "ext4", "/dev/sdb1", "rw");
    put("/proc/swaps", "Filename Type\n/media/stick/a\\040swap file 8 0 -2\n");
}

static void swap_elsewhere(void)
{
    put_part("sdb", 11, 8, 27);
    put_mount("8:27", "/media/stick2", "ext4", "/dev/sdb11", "rw");
    put("/proc/swaps", "Filename Type\n/dev/sdba partition 8 0 -2\n");
}

static void hundred_partitions(void)
{
    for (int i = 2; i <= 128; i++)
        put_part("sdb", i, 259, i);
    put_mount("259:127", "/media/last", "ext4", "/dev/sdb127", "rw");
}

static void nobody(void)
{
    put_mount("8:33", "/", "ext4", "/dev/sdc1", "rw");
}

static const struct {
    const char *name;
    void (*build)(void);
    const char *users;
    bool system;
} cases[] = {
    {"nobody", nobody, "", false},
    {"a mount", plain_mount, "sdb1 is mounted at /media/a stick", false},
    {"near names", near_names, "sdb11 is mounted at /media/eleven", false},
    {"given up", given_up,
     "sdb1 is read-only since an error, and mounted at /media/stick", false},
    {"anonymous root", anonymous_root, "sdb1 is mounted at /", true},
    {"anonymous fellow", anonymous_fellow, "sdb1 is mounted at /home", false},
    {"anonymous stranger", anonymous_stranger, "", false},
    {"overlay as root", overlay_root,
     "sdb1 is mounted at /run/live\nsdb1 is mounted at /", true},
    {"live image", live_image,
     "sdb1 is mounted at /run/live\nsdb1 carries loop3\nloop3 is mounted at "
     "/run/system\nloop3 is mounted at /",
     true},
    {"loop over a device", loop_over_device,
     "sdb1 carries loop2\nloop21 is mounted at /media/inner", false},
    {"loop over a file", loop_over_file,
     "sdb1 is mounted at /media/stick\nsdb1 carries loop2\nloop2 is mounted at "
     "/mnt/card",
     false},
    {"loop over another file", loop_over_another_file,
     "sdb1 is mounted at /media/stick", false},
    {"mapping", mapping, "sdb1 carries station\nstation is mounted at /srv",
     false},
    {"deep", deep,
     "sdb1 carries md0\nmd01 carries tides\ntides is mounted at /srv\ntides "
     "carries loop5\nloop5 is swap of the running system",
     true},
    {"swap", swap_partition, "sdb1 is swap of the running system", true},
    {"swap on a mapping", swap_on_mapping,
     "sdb1 carries swap\nswap is swap of the running system", true},
    {"swap in a file", swap_file,
     "sdb1 is mounted at /media/stick\nsdb1 is swap of the running system",
     true},
    {"swap elsewhere", swap_elsewhere, "sdb11 is mounted at /media/stick2",
     false},
    {"many partitions", hundred_partitions, "sdb127 is mounted at /media/last",
     false},
};

static void new_host(void)
{
    setenv("FOLDER", in_folder("host"), 1);
    assert_int_equal(system("rm -rf \"$FOLDER\""), 0);
    put_disk("sdb", 8, 16);
    put_part("sdb", 1, 8, 17);
    put("/proc/self/mountinfo", "");
}

static void every_stack_is_found(void **state)
{
    (void)state;
    for (size_t i = 0; i < sizeof cases / sizeof cases[0]; i++) {
        struct slate_linux_about about;
        char why[SLATE_LINUX_WHY_ROOM] = "";

        new_host();
        cases[i].build();
        assert_true(slate_linux_describe("sdb", &about));
        if (strcmp(about.users, cases[i].users) != 0)
            print_message("  %s\n", cases[i].name);
        assert_string_equal(about.users, cases[i].users);
        assert_int_equal(about.system, cases[i].system);
        if (strstr(about.users, "mounted at /\n") != NULL || i == 4)
            assert_status(slate_linux_may_free("sdb", why), SLATE_ERR_BUSY);
    }
}

static void images_are_found_behind_loop_devices(void **state)
{
    char users[SLATE_LINUX_USERS_ROOM];
    bool system;

    (void)state;
    new_host();
    put_loop(4, "/home/bench/card.img");
    put_part("loop4", 1, 259, 9);
    put_mount("259:9", "/mnt/inner", "vfat", "/dev/loop4p1", "rw");
    assert_true(slate_linux_file_users("/home/bench/card.img", users, &system));
    assert_string_equal(users, "the image carries loop4\nloop41 is mounted at "
                               "/mnt/inner");
    assert_false(system);
    assert_false(
        slate_linux_file_users("/home/bench/card.img2", users, &system));
    assert_string_equal(users, "");
}

/* More lines than there is room for: said, and the system is found all the
 * same. */
static void users_beyond_the_room_are_said_to_be_there(void **state)
{
    struct slate_linux_about about;

    (void)state;
    new_host();
    for (int i = 0; i < 90; i++) {
        char place[64];

        snprintf(place, sizeof place, "/media/a-rather-long-place-%d", i);
        put_mount("8:17", place, "ext4", "/dev/sdb1", "rw");
    }
    put_mount("8:17", "/usr", "ext4", "/dev/sdb1", "rw");
    assert_true(slate_linux_describe("sdb", &about));
    assert_true(about.system);
    assert_string_equal(about.users + strlen(about.users) - 9, "\nand more");
}

/* A stack that nobody here can dissolve is told before anything is done. */
static void what_cannot_be_released_is_told_first(void **state)
{
    char why[SLATE_LINUX_WHY_ROOM] = "";

    (void)state;
    new_host();
    plain_mount();
    put_holder("sdb/sdb1", "bcache0");
    put_disk("bcache0", 252, 0);
    assert_status(slate_linux_may_free("sdb", why), SLATE_ERR_BUSY);
    assert_non_null(strstr(why, "by its own means"));
    assert_status(slate_linux_may_free("sdx", why), SLATE_ERR_NO_DEVICE);
}

/* Two loop devices whose paths differ behind what a model has room for, or in
 * one character, are two devices. */
static void similar_paths_are_told_apart(void **state)
{
    static const char *const paths[] = {
        "/home/bench/a-very-long-name-of-a-folder-for-cards/logger/card-1.img",
        "/home/bench/a-very-long-name-of-a-folder-for-cards/logger/card-2.img",
        "/home/bench/a-very-long-name-of-a-folder-for-cards/loggers/card-1.img",
        "/home/bench/\xC3\xA4.img", "/home/bench/\xC3\xB6.img"};
    struct slate_linux_about about[5];

    (void)state;
    new_host();
    for (int i = 0; i < 5; i++) {
        char name[16];

        put_loop(i, paths[i]);
        snprintf(name, sizeof name, "loop%d", i);
        assert_true(slate_linux_describe(name, &about[i]));
        for (int j = 0; j < i; j++)
            assert_memory_not_equal(&about[i].identity, &about[j].identity,
                                    sizeof about[i].identity);
    }
}

/* A partition is no device: the one that it lies on is named. */
static void a_partition_names_its_device(void **state)
{
    char why[SLATE_LINUX_WHY_ROOM] = "", link[512], place[512];
    struct slate_linux *device = NULL;

    (void)state;
    new_host();
    put_part("sdb", 7, 8, 23);
    put("/sys/class/block/x", "");
    assert_true(linux_path(link, sizeof link, "/sys/class/block/sdb7"));
    assert_true(linux_path(place, sizeof place, "/sys/block/sdb/sdb7"));
    assert_int_equal(symlink(place, link), 0);
    assert_status(slate_linux_open("sdb7", &device, why), SLATE_ERR_NO_DEVICE);
    assert_null(device);
    assert_string_equal(why,
                        "it is partition 1 of sdb; name that one: dev:sdb");
}

static int clean_up(void **state)
{
    (void)state;
    program_clean();
    return 0;
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(every_stack_is_found),
        cmocka_unit_test(images_are_found_behind_loop_devices),
        cmocka_unit_test(users_beyond_the_room_are_said_to_be_there),
        cmocka_unit_test(what_cannot_be_released_is_told_first),
        cmocka_unit_test(similar_paths_are_told_apart),
        cmocka_unit_test(a_partition_names_its_device),
    };

    return cmocka_run_group_tests_name("stacks", tests, NULL, clean_up);
}
