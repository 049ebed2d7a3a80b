/* SPDX-License-Identifier: MIT */
/* Everything of the core in one header.
 *
 * Rules that hold for every function, so that they stand only here:
 *
 * - The core allocates nothing and keeps no state of its own: the caller
 *   places every struct and buffer. Nothing has to be closed or freed.
 * - Pointers must not be NULL unless the function says so.
 * - Blocks are the logical blocks of the device; byte quantities say _bytes.
 * - Functions return an enum slate_status, 0 for success; results go through
 *   out-parameters, which are valid only on success unless said otherwise.
 * - One device is used by one thread at a time; different devices need no
 *   locks.
 * - All that is read from a device is taken as hostile: checked before use.
 *
 * The rooms, from the ground up: base, port, media, door, erase, guard, compose
 * (with the mark), table, volume, assess, attribute, draft (with the pass),
 * ledger, enact, prove, flow, lowlevel (with the drive).
 */
#ifndef TRUESLATE_TRUESLATE_H
#define TRUESLATE_TRUESLATE_H

#include "trueslate/advise.h"
#include "trueslate/assess.h"
#include "trueslate/attribute.h"
#include "trueslate/base.h"
#include "trueslate/compose.h"
#include "trueslate/door.h"
#include "trueslate/draft.h"
#include "trueslate/drive.h"
#include "trueslate/enact.h"
#include "trueslate/erase.h"
#include "trueslate/evidence.h"
#include "trueslate/files.h"
#include "trueslate/flow.h"
#include "trueslate/format.h"
#include "trueslate/goal.h"
#include "trueslate/guard.h"
#include "trueslate/journal.h"
#include "trueslate/journal_one.h"
#include "trueslate/layout.h"
#include "trueslate/ledger.h"
#include "trueslate/lowlevel.h"
#include "trueslate/mark.h"
#include "trueslate/media.h"
#include "trueslate/mend.h"
#include "trueslate/mendable.h"
#include "trueslate/mode.h"
#include "trueslate/overwrite.h"
#include "trueslate/pass.h"
#include "trueslate/port.h"
#include "trueslate/probe.h"
#include "trueslate/prove.h"
#include "trueslate/reformat.h"
#include "trueslate/scan.h"
#include "trueslate/search.h"
#include "trueslate/source.h"
#include "trueslate/status.h"
#include "trueslate/stored.h"
#include "trueslate/surface.h"
#include "trueslate/sweep.h"
#include "trueslate/table.h"
#include "trueslate/use.h"
#include "trueslate/version.h"
#include "trueslate/volume.h"

#endif
