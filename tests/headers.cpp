// SPDX-License-Identifier: GPL-3.0-or-later
// Nothing: the target of the precompiled headers needs a source.
