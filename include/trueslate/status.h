/* SPDX-License-Identifier: MIT */
/* Result codes: one list gives each its name, its class and its sentence. */
#ifndef TRUESLATE_STATUS_H
#define TRUESLATE_STATUS_H

#ifdef __cplusplus
extern "C" {
#endif

/* The compiler warns when a result so marked is dropped. */
#if defined(__GNUC__) || defined(__clang__)
#define SLATE_MUST_CHECK __attribute__((warn_unused_result))
#else
#define SLATE_MUST_CHECK
#endif

/**
 * What kind of failure a result is. The command-line tool uses the number of
 * the class as its exit code.
 */
enum slate_class {
    SLATE_CLASS_OK = 0,       /**< done */
    SLATE_CLASS_INTERNAL = 1, /**< a defect of True Slate itself */
    SLATE_CLASS_USAGE = 2,    /**< the request makes no sense as it stands */
    SLATE_CLASS_REFUSED = 3,  /**< refused, so that nothing is lost */
    SLATE_CLASS_DEVICE = 4,   /**< the device or image did not do its part */
    SLATE_CLASS_UNPROVED = 5, /**< read back, and not what was written */
    SLATE_CLASS_STOPPED = 6,  /**< interrupted on request */
    SLATE_CLASS_GOAL = 7      /**< the goal does not fit this device */
};

/* X(name, class, cause within the class, sentence) */
#define SLATE_STATUS_LIST(X)                                                   \
    X(SLATE_ERR_INTERNAL, SLATE_CLASS_INTERNAL, 1,                             \
      "internal error; please report it")                                      \
    X(SLATE_ERR_OUTSIDE, SLATE_CLASS_INTERNAL, 2,                              \
      "what nobody has entered was to be changed; please report it")           \
    X(SLATE_ERR_ARGUMENT, SLATE_CLASS_USAGE, 1,                                \
      "an argument is missing or out of range")                                \
    X(SLATE_ERR_BUFFER, SLATE_CLASS_USAGE, 2,                                  \
      "the work buffer is smaller than 4096 bytes or two blocks")              \
    X(SLATE_ERR_ROOM, SLATE_CLASS_USAGE, 8,                                    \
      "an array that the caller has placed is too small for what it shall "    \
      "hold")                                                                  \
    X(SLATE_ERR_RANGE, SLATE_CLASS_USAGE, 3,                                   \
      "the block range reaches beyond the end of the device")                  \
    X(SLATE_ERR_LABEL, SLATE_CLASS_USAGE, 4,                                   \
      "the label is not valid UTF-8 or holds nothing that can be stored")      \
    X(SLATE_ERR_CLUSTER, SLATE_CLASS_USAGE, 5,                                 \
      "the cluster size must be a power of two from one block to what the "    \
      "format allows: 64 KiB, exFAT 32 MiB")                                   \
    X(SLATE_ERR_USE, SLATE_CLASS_USAGE, 6,                                     \
      "this use, table or volume kind is not known")                           \
    X(SLATE_ERR_PARTS, SLATE_CLASS_USAGE, 7,                                   \
      "the table does not hold these partitions")                              \
    X(SLATE_ERR_CONSENT, SLATE_CLASS_REFUSED, 1,                               \
      "consent is missing or names another device")                            \
    X(SLATE_ERR_OTHER_DEVICE, SLATE_CLASS_REFUSED, 2,                          \
      "the draft was made for another device")                                 \
    X(SLATE_ERR_CHANGED, SLATE_CLASS_REFUSED, 3,                               \
      "the device has changed since the draft was made")                       \
    X(SLATE_ERR_DRAFT_DAMAGED, SLATE_CLASS_REFUSED, 4,                         \
      "the draft file is damaged or was edited by hand")                       \
    X(SLATE_ERR_DRAFT_VERSION, SLATE_CLASS_REFUSED, 5,                         \
      "the draft file was made by another version of True Slate")              \
    X(SLATE_ERR_PROTECTED, SLATE_CLASS_REFUSED, 6,                             \
      "the device is write-protected")                                         \
    X(SLATE_ERR_ALREADY, SLATE_CLASS_REFUSED, 7,                               \
      "this draft has already been enacted; prove it, or draft anew")          \
    X(SLATE_ERR_GUARD, SLATE_CLASS_REFUSED, 8,                                 \
      "what protects the device cannot be lifted by a command")                \
    X(SLATE_ERR_ONE_COPY, SLATE_CLASS_REFUSED, 9,                              \
      "only one copy of the table is sound, and changing it might lose it")    \
    X(SLATE_ERR_SWAPPED, SLATE_CLASS_REFUSED, 10,                              \
      "it holds something else now than what was looked at: another medium, "  \
      "or a device that does not keep what it is given")                       \
    X(SLATE_ERR_LEFTOVER, SLATE_CLASS_REFUSED, 11,                             \
      "some blocks hold what an earlier probe wrote and never put back")       \
    X(SLATE_ERR_UNCLEAN, SLATE_CLASS_REFUSED, 12,                              \
      "the volume's log has to be replayed first: let its own system mount "   \
      "it and unmount it")                                                     \
    X(SLATE_ERR_JOURNAL, SLATE_CLASS_REFUSED, 13,                              \
      "the journal is damaged, was not finished, or is of something else")     \
    X(SLATE_ERR_USED, SLATE_CLASS_REFUSED, 14,                                 \
      "the device was written to since; rewinding it would lose that")         \
    X(SLATE_ERR_KEEPER, SLATE_CLASS_REFUSED, 15,                               \
      "the journal could not be kept or read where it is")                     \
    X(SLATE_ERR_CAPACITY, SLATE_CLASS_REFUSED, 16,                             \
      "the device was proved to have fewer blocks than it claims")             \
    X(SLATE_ERR_LIVES, SLATE_CLASS_REFUSED, 17,                                \
      "something that is still used stands where it would write")              \
    X(SLATE_ERR_JOURNAL_VERSION, SLATE_CLASS_REFUSED, 18,                      \
      "the journal was kept by another version of True Slate")                 \
    X(SLATE_ERR_TWO_COPIES, SLATE_CLASS_REFUSED, 20,                           \
      "both copies of the table are sound, and name different partitions: "    \
      "one of them has to be picked first, with 'mend --from'")                \
    X(SLATE_ERR_DRAFT_REVISION, SLATE_CLASS_REFUSED, 19,                       \
      "the draft was made by a version of True Slate that writes something "   \
      "else")                                                                  \
    X(SLATE_ERR_TAKEN_OUT, SLATE_CLASS_REFUSED, 21,                            \
      "its medium was taken out, or another was put in, after it was looked "  \
      "at: look at it anew")                                                   \
    X(SLATE_ERR_NO_DEVICE, SLATE_CLASS_DEVICE, 1,                              \
      "there is no such device or image")                                      \
    X(SLATE_ERR_NO_MEDIUM, SLATE_CLASS_DEVICE, 2,                              \
      "the device holds no medium")                                            \
    X(SLATE_ERR_GEOMETRY, SLATE_CLASS_DEVICE, 3,                               \
      "the device reports a capacity or block size that cannot be used")       \
    X(SLATE_ERR_READ, SLATE_CLASS_DEVICE, 4, "the device could not be read")   \
    X(SLATE_ERR_WRITE, SLATE_CLASS_DEVICE, 5,                                  \
      "the device could not be written")                                       \
    X(SLATE_ERR_COMMAND, SLATE_CLASS_DEVICE, 6,                                \
      "the device refused a command")                                          \
    X(SLATE_ERR_ACCESS, SLATE_CLASS_DEVICE, 7,                                 \
      "the permission to open the device or image is missing")                 \
    X(SLATE_ERR_BUSY, SLATE_CLASS_DEVICE, 8,                                   \
      "another program is using the device or image")                          \
    X(SLATE_ERR_STILL_GUARDED, SLATE_CLASS_DEVICE, 9,                          \
      "the device says that its protection is lifted, but it still holds")     \
    X(SLATE_ERR_SOURCE, SLATE_CLASS_DEVICE, 10,                                \
      "a file to be placed cannot be read, or is not what it was when the "    \
      "draft was made")                                                        \
    X(SLATE_ERR_UNERASED, SLATE_CLASS_DEVICE, 11,                              \
      "the device says that it could not erase itself")                        \
    X(SLATE_ERR_UNPROVED, SLATE_CLASS_UNPROVED, 1,                             \
      "the device returns something other than what was written")              \
    X(SLATE_ERR_ALIAS, SLATE_CLASS_UNPROVED, 2,                                \
      "what is written to one block shows in another as well: the device has " \
      "fewer blocks than it claims")                                           \
    X(SLATE_ERR_CAPACITY_FALSE, SLATE_CLASS_UNPROVED, 3,                       \
      "the device has fewer blocks than it claims")                            \
    X(SLATE_ERR_STOPPED, SLATE_CLASS_STOPPED, 1, "interrupted on request")     \
    X(SLATE_ERR_TOO_SMALL, SLATE_CLASS_GOAL, 1,                                \
      "the device is too small for the volume asked for")                      \
    X(SLATE_ERR_TOO_LARGE, SLATE_CLASS_GOAL, 2,                                \
      "the device is larger than the volume or table asked for can cover")     \
    X(SLATE_ERR_BLOCK_SIZE, SLATE_CLASS_GOAL, 3,                               \
      "the goal needs blocks of 512, 1024, 2048 or 4096 bytes")                \
    X(SLATE_ERR_ROOT_FULL, SLATE_CLASS_GOAL, 4,                                \
      "the root directory has no room for that; fewer files there make some")  \
    X(SLATE_ERR_FORMAT, SLATE_CLASS_GOAL, 5,                                   \
      "this cannot be done to a volume of this kind")                          \
    X(SLATE_ERR_BAD_BLOCK, SLATE_CLASS_GOAL, 6,                                \
      "a block that table or volume cannot do without is bad")                 \
    X(SLATE_ERR_NAME, SLATE_CLASS_GOAL, 7,                                     \
      "a file or folder has a name that cannot stand on the volume")           \
    X(SLATE_ERR_FILES, SLATE_CLASS_GOAL, 8,                                    \
      "the files do not fit on the volume")                                    \
    X(SLATE_ERR_FILE_SIZE, SLATE_CLASS_GOAL, 9,                                \
      "a file is larger than a file on such a volume can be")                  \
    X(SLATE_ERR_START, SLATE_CLASS_GOAL, 10,                                   \
      "the start-up code does not go with this kind of volume")                \
    X(SLATE_ERR_LABEL_ROOM, SLATE_CLASS_GOAL, 11,                              \
      "the volume has no room for this label where its own stands; a shorter " \
      "one may fit")                                                           \
    X(SLATE_ERR_BAD_LIST, SLATE_CLASS_GOAL, 12,                                \
      "more bad blocks than the volume can keep a list of")                    \
    X(SLATE_ERR_IN_THE_WAY, SLATE_CLASS_GOAL, 13,                              \
      "what stays on the device is in the way")

/**
 * The result of every function that can fail: 0 is success, failures are
 * negative, -(class * 256 + cause).
 */
enum slate_status {
    SLATE_OK = 0,
#define SLATE_STATUS_ENUM(name, class, cause, sentence)                        \
    name = -((int)(class) * 256 + (cause)),
    SLATE_STATUS_LIST(SLATE_STATUS_ENUM)
#undef SLATE_STATUS_ENUM
};

/**
 * Name of a result as it stands in this header, for logs.
 *
 * @param status any value, also one that is no result
 * @return a constant string, never NULL ("SLATE_UNKNOWN" for no result)
 */
const char *slate_status_name(enum slate_status status);

/**
 * One lower-case English sentence for a result, without a final stop.
 *
 * @param status any value, also one that is no result
 * @return a constant string, never NULL
 */
const char *slate_status_sentence(enum slate_status status);

/**
 * The class of a result.
 *
 * @param status any value
 * @return the class; SLATE_CLASS_INTERNAL for a value that is no result
 */
enum slate_class slate_status_class(enum slate_status status);

#ifdef __cplusplus
}
#endif
#endif
