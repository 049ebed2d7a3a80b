/* SPDX-License-Identifier: MIT */
/* Running the tool and the scripts as programs. */
#include <errno.h>
#include <fcntl.h>
#include <pty.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "program.h"
#include "turns.h"

#define NOBODY 65534

static char folder[64];

const char *program_folder(void)
{
    if (folder[0] == '\0') {
        strcpy(folder, "/tmp/trueslate-test-XXXXXX");
        if (mkdtemp(folder) == NULL || chmod(folder, 0777) != 0)
            abort();
    }
    return folder;
}

void program_clean(void)
{
    const char *const words[] = {"rm", "-rf", folder, NULL};
    static struct program program;

    if (folder[0] != '\0')
        program_run(&program, words);
    folder[0] = '\0';
}

const char *in_folder(const char *name)
{
    static char paths[8][256];
    static unsigned next;
    char *path = paths[next++ % 8];

    snprintf(path, sizeof paths[0], "%s/%s", program_folder(), name);
    return path;
}

static int temporary(const char *content)
{
    char name[] = "/tmp/trueslate-pipe-XXXXXX";
    int descriptor = mkstemp(name);

    if (descriptor < 0 || unlink(name) != 0 ||
        write(descriptor, content, strlen(content)) < 0 ||
        lseek(descriptor, 0, SEEK_SET) != 0)
        abort();
    return descriptor;
}

static void take_output(int descriptor, char *text, size_t room)
{
    ssize_t n = pread(descriptor, text, room - 1, 0);

    text[n < 0 ? 0 : n] = '\0';
    close(descriptor);
}

/* What is started knows nothing of how this was: nohup and & leave signals
 * ignored, and exec keeps that. */
static void reset_signals(void)
{
    sigset_t none;

    for (int i = 1; i < NSIG; i++)
        signal(i, SIG_DFL);
    sigemptyset(&none);
    sigprocmask(SIG_SETMASK, &none, NULL);
}

static uint64_t started; /* programs, by this one */

/* To look for leaks takes longer than most of them: each eighth, by turns. */
static void choose_leak_check(void)
{
    if (getenv("ASAN_OPTIONS") == NULL && !turn_of(started, 8))
        setenv("ASAN_OPTIONS", "detect_leaks=0", 1);
}

static void become(const struct program *program, const char *const *words)
{
    const char *state = getenv("XDG_STATE_HOME");

    reset_signals();
    choose_leak_check();
    setenv("HOME", program_folder(), 1);
    if (state == NULL || strncmp(state, folder, strlen(folder)) != 0)
        unsetenv("XDG_STATE_HOME");
    if (program->as_nobody && geteuid() == 0 &&
        (setgid(NOBODY) != 0 || setuid(NOBODY) != 0))
        _exit(126);
    execvp(words[0], (char *const *)(size_t)words);
    _exit(127);
}

static void wait_ms(int ms)
{
    struct timespec pause = {ms / 1000, (long)(ms % 1000) * 1000000};

    nanosleep(&pause, NULL);
}

/* Looks every few milliseconds; gives up when the program has ended. */
static void interrupt(const struct program *program, pid_t child)
{
    siginfo_t ended = {0};

    while (!program->interrupt_when()) {
        wait_ms(3);
        ended.si_pid = 0;
        if (waitid(P_PID, (id_t)child, &ended, WEXITED | WNOHANG | WNOWAIT) !=
                0 ||
            ended.si_pid != 0)
            return;
    }
    kill(child, program->signal == 0 ? SIGINT : program->signal);
}

static void type(const struct program *program, int terminal)
{
    if (program->input != NULL &&
        write(terminal, program->input, strlen(program->input)) < 0)
        abort();
}

/* What is shown until nobody is left who could show more. */
static void read_terminal(struct program *program, int terminal)
{
    bool typed = program->type_after == NULL;
    size_t used = 0;
    ssize_t n = 1;

    while (n > 0 || (n < 0 && errno == EINTR)) {
        n = read(terminal, program->out + used, sizeof program->out - 1 - used);
        used += n > 0 ? (size_t)n : 0;
        program->out[used] = '\0';
        if (!typed && strstr(program->out, program->type_after) != NULL) {
            type(program, terminal);
            typed = true;
        }
    }
    program->err[0] = '\0';
    close(terminal);
}

static void run_at_terminal(struct program *program, const char *const *words)
{
    const struct winsize size = {.ws_row = 50, .ws_col = 100};
    int terminal, status = 0;
    pid_t child = forkpty(&terminal, NULL, NULL, &size);

    if (child == 0)
        become(program, words);
    if (program->type_after == NULL)
        type(program, terminal);
    read_terminal(program, terminal);
    waitpid(child, &status, 0);
    program->code =
        WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
}

static void become_with(const struct program *program, const char *const *words,
                        const int ends[3])
{
    for (int i = 0; i < 3; i++)
        dup2(ends[i], i);
    become(program, words);
}

static void run_with_files(struct program *program, const char *const *words)
{
    int ends[3] = {temporary(program->input == NULL ? "" : program->input),
                   temporary(""), temporary("")};
    int status = 0;
    pid_t child = fork();

    if (child == 0)
        become_with(program, words, ends);
    if (program->interrupt_when != NULL)
        interrupt(program, child);
    waitpid(child, &status, 0);
    program->code =
        WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
    close(ends[0]);
    take_output(ends[1], program->out, sizeof program->out);
    take_output(ends[2], program->err, sizeof program->err);
}

void program_run(struct program *program, const char *const *words)
{
    (void)program_folder(); /* made once, not by each that is started */
    started++;
    if (program->at_terminal)
        run_at_terminal(program, words);
    else
        run_with_files(program, words);
}

int shell_run(struct program *program, const char *line)
{
    const char *words[] = {"bash", "-c", line, NULL};

    setenv("FOLDER", program_folder(), 1);
    program_run(program, words);
    return program->code;
}

#define KEPT_MOST 400 /* reports of one test program */

/* A report in JSON is kept, to be held against its schema in the end. */
static void keep_report(const struct program *program)
{
    static int kept;
    char name[40];
    FILE *file;

    if (strncmp(program->out, "{\n", 2) != 0 || kept == KEPT_MOST ||
        strlen(program->out) == sizeof program->out - 1)
        return;
    (void)mkdir(in_folder("reports"), 0777);
    snprintf(name, sizeof name, "reports/%d", kept++);
    file = fopen(in_folder(name), "w");
    if (file == NULL)
        abort();
    fputs(program->out, file);
    fclose(file);
}

int tool_run(struct program *program, const char *line)
{
    static char text[2048];
    const char *words[32] = {getenv("TOOL")};
    size_t count = 1, used = 0;

    for (const char *p = line; *p != '\0' && used + 80 < sizeof text; p++) {
        if (*p == '$')
            used += (size_t)snprintf(text + used, sizeof text - used, "%s",
                                     program_folder());
        else
            text[used++] = *p;
    }
    text[used] = '\0';
    for (char *word = strtok(text, " "); word != NULL && count < 31;
         word = strtok(NULL, " "))
        words[count++] = word;
    words[count] = NULL;
    program_run(program, words);
    keep_report(program);
    return program->code;
}
