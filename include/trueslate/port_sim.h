/* SPDX-License-Identifier: MIT */
/* A bench of simulated devices: each is a description and its blocks in a
 * folder, and answers the same command bytes as a real one. */
#ifndef TRUESLATE_PORT_SIM_H
#define TRUESLATE_PORT_SIM_H

#include "trueslate/port.h"

#ifdef __cplusplus
extern "C" {
#endif

/** An open simulated device. */
struct slate_sim;

/** Room for a sentence on what is wrong with a description. */
#define SLATE_SIM_WHY_ROOM 256

/**
 * Opens a device of a bench. docs/bench.md tells what a description holds.
 *
 * @param bench folder with NAME.json and NAME.blocks
 * @param name  of the device; "NAME/1" for its second logical unit
 * @param sim   receives the device; close it with slate_sim_close
 * @param why   receives one sentence when the device cannot be opened
 * @return SLATE_OK; SLATE_ERR_NO_DEVICE (no such device), SLATE_ERR_GEOMETRY
 *         (a description that makes no sense), SLATE_ERR_ACCESS,
 *         SLATE_ERR_BUSY (another program has it), SLATE_ERR_INTERNAL (no
 *         memory)
 */
SLATE_MUST_CHECK enum slate_status slate_sim_open(const char *bench,
                                                  const char *name,
                                                  struct slate_sim **sim,
                                                  char why[SLATE_SIM_WHY_ROOM]);

/** The port of a device; valid until it is closed. @param sim open */
const struct slate_port *slate_sim_port(const struct slate_sim *sim);

/** How many logical units the device has, at least 1. @param sim open */
uint32_t slate_sim_units(const struct slate_sim *sim);

/**
 * Who uses a device at its simulated host.
 *
 * @param sim   open
 * @param users receives one line; "" for nobody
 */
void slate_sim_users(const struct slate_sim *sim,
                     char users[SLATE_SIM_WHY_ROOM]);

/**
 * Would slate_sim_free get to its end? Changes nothing.
 *
 * @param sim open
 * @param why receives one sentence on what is in the way
 * @return SLATE_OK; SLATE_ERR_BUSY (a program works in a place that is mounted)
 */
SLATE_MUST_CHECK enum slate_status
slate_sim_may_free(const struct slate_sim *sim, char why[SLATE_SIM_WHY_ROOM]);

/**
 * Unmounts what the simulated host has mounted of it.
 *
 * @param sim     open
 * @param done    called for what was released; may be NULL
 * @param context handed to @p done
 * @param why     receives one sentence on failure
 * @return as slate_sim_may_free
 */
SLATE_MUST_CHECK enum slate_status
slate_sim_free(struct slate_sim *sim,
               void (*done)(void *context, const char *what), void *context,
               char why[SLATE_SIM_WHY_ROOM]);

/**
 * Plugs a device of the bench in or out. One that is out is neither listed nor
 * can be opened.
 *
 * @param bench folder
 * @param name  of the device
 * @param in    true: in
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE
 */
SLATE_MUST_CHECK enum slate_status slate_sim_plug(const char *bench,
                                                  const char *name, bool in);

/** Closes a device. @param sim may be NULL */
void slate_sim_close(struct slate_sim *sim);

/**
 * Names the devices that are plugged in on a bench, in alphabetical order.
 *
 * @param bench folder
 * @param found called with each name
 * @param context handed to @p found
 * @return SLATE_OK, SLATE_ERR_NO_DEVICE when there is no such folder
 */
SLATE_MUST_CHECK enum slate_status
slate_sim_list(const char *bench,
               void (*found)(void *context, const char *name), void *context);

/**
 * Lays out a fresh bench: copies every description and gives each device the
 * content that its description tells. Devices of the same name start anew.
 *
 * @param descriptions folder with the descriptions
 * @param bench        folder, made when it is not there
 * @param why          receives one sentence on failure
 * @return SLATE_OK; SLATE_ERR_NO_DEVICE (no descriptions), SLATE_ERR_GEOMETRY
 *         (a description that makes no sense), SLATE_ERR_WRITE
 */
SLATE_MUST_CHECK enum slate_status slate_sim_lay(const char *descriptions,
                                                 const char *bench,
                                                 char why[SLATE_SIM_WHY_ROOM]);

#ifdef __cplusplus
}
#endif
#endif
