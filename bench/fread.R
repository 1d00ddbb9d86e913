# SPDX-License-Identifier: GPL-3.0-or-later
# How long data.table::fread takes for a log, beside the import: Rscript bench/fread.R LOG [THREADS]. Not part of the
# build or the tests; the import of the same file is timed by `time impasto-cli summarize` less what it computes, or by
# bench_import on a file of the same kind.
said <- commandArgs(trailingOnly = TRUE)
suppressMessages(library(data.table))
setDTthreads(if (length(said) > 1) as.integer(said[2]) else 1)
times <- sapply(1:5, function(i) {
  started <- proc.time()[["elapsed"]]
  table <- fread(said[1], showProgress = FALSE)
  proc.time()[["elapsed"]] - started
})
cat(sprintf("%d rows, %d threads: %.0f ms at best, %.0f ms in the middle of five\n",
            nrow(fread(said[1], showProgress = FALSE)), getDTthreads(), 1000 * min(times), 1000 * median(times)))
