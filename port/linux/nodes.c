/* SPDX-License-Identifier: MIT */
/* A device, its partitions, and everything that is stacked on them, from the
 * ground up. */
#include <dirent.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "linux.h"

static void add_node(struct linux_nodes *nodes, const char *folder,
                     const char *what, const char *under)
{
    struct linux_node *node = &nodes->node[nodes->count];
    char path[320];

    for (uint32_t i = 0; i < nodes->count; i++) {
        if (strcmp(nodes->node[i].what, what) == 0)
            return; /* stacked on two partitions of the same device */
    }
    if (nodes->count == LINUX_NODES)
        return;
    nodes->count++;
    snprintf(node->folder, sizeof node->folder, "%.250s", folder);
    snprintf(node->what, sizeof node->what, "%.60s", what);
    snprintf(node->under, sizeof node->under, "%.60s", under);
    snprintf(path, sizeof path, "%s/dev", node->folder);
    linux_read_line(path, node->numbers, sizeof node->numbers);
    snprintf(path, sizeof path, "%s/dm/name", node->folder);
    linux_read_line(path, node->mapping, sizeof node->mapping);
}

/* What stands on a device or partition: its holders. */
static void add_holders(struct linux_nodes *nodes, const struct linux_node *at)
{
    char path[320], what[64];
    struct dirent *entry;
    DIR *folder;

    snprintf(what, sizeof what, "%s", at->what);
    snprintf(path, sizeof path, "%s/holders", at->folder);
    folder = opendir(path);
    while (folder != NULL && (entry = readdir(folder)) != NULL) {
        if (entry->d_name[0] == '.')
            continue;
        snprintf(path, sizeof path, "/sys/block/%.60s", entry->d_name);
        add_node(nodes, path, entry->d_name, what);
    }
    if (folder != NULL)
        closedir(folder);
}

static void add_partitions(struct linux_nodes *nodes, const char *path)
{
    char part[256], line[16];
    struct dirent **entries;
    int count = scandir(path, &entries, NULL, alphasort);

    for (int i = 0; i < count; i++) {
        snprintf(part, sizeof part, "%s/%.40s/partition", path,
                 entries[i]->d_name);
        linux_read_line(part, line, sizeof line);
        if (line[0] != '\0') {
            snprintf(part, sizeof part, "%s/%.40s", path, entries[i]->d_name);
            add_node(nodes, part, entries[i]->d_name, "");
        }
        free(entries[i]);
    }
    if (count >= 0)
        free(entries);
}

void linux_find_nodes(const char *name, struct linux_nodes *nodes)
{
    char path[128];

    nodes->count = 0;
    snprintf(path, sizeof path, "/sys/block/%.31s", name);
    add_node(nodes, path, name, "");
    add_partitions(nodes, path);
    for (uint32_t i = 0; i < nodes->count; i++) /* the list grows meanwhile */
        add_holders(nodes, &nodes->node[i]);
}
