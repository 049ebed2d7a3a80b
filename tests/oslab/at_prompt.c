/* SPDX-License-Identifier: MIT */
/* For the OS lab: runs a command at a terminal. Once it asks for consent, BEGUN
 * is made, DONE waited for, and then the words are given. Usage: at_prompt
 * BEGUN DONE WORDS COMMAND...; prints what was shown, and ends as the command
 * does. */
#define _GNU_SOURCE
#include <fcntl.h>
#include <pty.h>
#include <stdio.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

static char shown[65536];
static size_t length;

static void let_it_happen(const char *begun, const char *done)
{
    int file = open(begun, O_CREAT | O_WRONLY, 0644);

    if (file >= 0)
        close(file);
    for (int i = 0; i < 1200 && access(done, F_OK) != 0; i++)
        usleep(100000);
}

int main(int count, char **words)
{
    int terminal, status, asked = 0;
    pid_t child;

    if (count < 5)
        return 2;
    child = forkpty(&terminal, NULL, NULL, NULL);
    if (child < 0)
        return 2;
    if (child == 0) {
        execvp(words[4], words + 4);
        _exit(127);
    }
    for (;;) {
        ssize_t got = read(terminal, shown + length, sizeof shown - 1 - length);

        if (got <= 0)
            break;
        length += (size_t)got;
        shown[length] = '\0';
        if (asked || strstr(shown, "To agree, type") == NULL)
            continue;
        asked = 1;
        let_it_happen(words[1], words[2]);
        dprintf(terminal, "%s\n", words[3]);
    }
    fputs(shown, stdout);
    if (waitpid(child, &status, 0) != child || !WIFEXITED(status) || !asked)
        return 99;
    return WEXITSTATUS(status);
}
