/* SPDX-License-Identifier: MIT */
/* The three standard streams, whatever the caller has made of them. */
#ifndef TOOL_STREAMS_H
#define TOOL_STREAMS_H

/* Ahead of everything else: descriptors 0 to 2 are open afterwards, so that no
 * device or file gets one of them; what was closed answers as such. From now on
 * a broken pipe is an error of a write, and the end of the program tells when
 * not all that was said could be written. */
void streams_begin(void);

#endif
