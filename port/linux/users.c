/* SPDX-License-Identifier: MIT */
/* Who uses a device or an image: mounts, swap, and what is stacked on it, at
 * any depth. */

#include "linux.h"

#define MORE "\nand more"

/* What does not fit is said to be there. */
static void add(struct linux_users *users, const char *what, const char *how,
                const char *where)
{
    size_t used = strlen(users->lines), room = sizeof users->lines;
    int length;

    if (users->full)
        return;
    length = snprintf(users->lines + used, room - used, "%s%.60s %s%.200s",
                      used == 0 ? "" : "\n", what, how, where);
    if (length >= 0 && used + (size_t)length < room - sizeof MORE)
        return;
    users->full = true;
    memcpy(users->lines + used, MORE, sizeof MORE);
}

bool linux_is_system_place(const char *place)
{
    return strcmp(place, "/") == 0 || strcmp(place, "/usr") == 0 ||
           strncmp(place, "/boot", 5) == 0;
}

const char *linux_name_of(const struct linux_node *node)
{
    return node->mapping[0] == '\0' ? node->what : node->mapping;
}

/* A partition of something stacked is no stack of its own. */
bool linux_is_stack(const struct linux_nodes *nodes,
                    const struct linux_node *node)
{
    return node->under[0] != '\0' && !linux_is_part(nodes, node);
}

static const char *name_under(const struct linux_nodes *nodes,
                              const struct linux_node *node)
{
    for (uint32_t i = 0; i < nodes->count; i++) {
        if (strcmp(nodes->node[i].what, node->under) == 0)
            return linux_name_of(&nodes->node[i]);
    }
    return node->under;
}

static void look(struct linux_users *users, const struct linux_nodes *nodes,
                 const struct linux_node *node)
{
    const struct linux_mounts *mounts = &nodes->mounts;

    if (linux_is_stack(nodes, node))
        add(users, name_under(nodes, node), "carries ", linux_name_of(node));
    for (uint32_t i = 0; i < mounts->count; i++) {
        const struct linux_mount *mount = &mounts->mount[i];

        if (!linux_mount_stands_on(mounts, mount, node))
            continue;
        add(users, linux_name_of(node),
            linux_has_given_up(mount)
                ? "is read-only since an error, and mounted at "
                : "is mounted at ",
            mount->place);
        users->system = users->system || linux_is_system_place(mount->place);
    }
    for (uint32_t i = 0; i < mounts->swaps; i++) {
        if (!linux_path_stands_on(mounts, mounts->swap[i], node))
            continue;
        add(users, linux_name_of(node), "is swap of the running system", "");
        users->system = true;
    }
}

void linux_find_users(const struct linux_nodes *nodes,
                      struct linux_users *users)
{
    memset(users, 0, sizeof *users);
    for (uint32_t i = 0; i < nodes->count; i++)
        look(users, nodes, &nodes->node[i]);
}

bool slate_linux_file_users(const char *path,
                            char users[SLATE_LINUX_USERS_ROOM], bool *system)
{
    struct linux_nodes nodes;
    struct linux_users found;

    linux_find_file_nodes(path, &nodes);
    linux_find_users(&nodes, &found);
    linux_forget_nodes(&nodes);
    memcpy(users, found.lines, SLATE_LINUX_USERS_ROOM);
    *system = found.system;
    return users[0] != '\0';
}
