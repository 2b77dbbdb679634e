#' Multiple imputation of missing answers
#'
#' Fills each gap `m` times by chained equations (van Buuren & Groothuis-Oudshoorn, 2011): each item in turn is predicted from all other items
#' and the columns in `also`, and a value is drawn that could have been given. The survey that comes back can be used wherever the first one
#' could: verbs that rest on means and covariances then take those of the imputations, pooled, with a covariance matrix that adds
#' what differs between imputations to what is uncertain within them (Rubin, 1987), and estimate from them in a second stage (Lee & Cai, 2012).
#' So errors, intervals and chi-squares allow for what is not known. Screening, keying, answering behaviour and bias look at the answers as given;
#' [sw_invariance()] takes likelihood, since imputations made of all people together would make groups more alike than they are.
#'
#' @param survey A survey; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param m Number of imputations.
#' @param also Columns of the data that tell who leaves answers out, or what they would have said.
#' @param models How values are drawn: `"matched"`, an answer that somebody with a similar prediction gave (predictive mean matching; Little,
#'   1988), 0/1 items by logistic regression; `"ordered"`, proportional odds models for items of three to ten options, which take much longer.
#'   All are within an item's range.
#' @param iterations Rounds of the chained equations.
#' @param from A list of data frames, imputed elsewhere, each with the rows of the survey's data in their order: used in place of imputing here.
#' @param seed Seed of the draws.
#' @return A `sw_imputations`, which is a survey. `tidy()` gives the table `convergence`: of each item with gaps how many, the potential
#'   scale reduction of the mean and of the standard deviation of its imputed values over chains (Gelman & Rubin, 1992; near 1 where chains mix),
#'   and the
#'   share of the information on its mean that is missing. [sw_score()] with `fill = "imputed"` gives the mean of the imputations' scores, with what
#'   differs between them in `<score>_gap`.
#' @section Errors: `scalewort_error_input` where nobody misses an answer, an item has no answers, the package mice is not there, or `from` does
#'   not fit the
#'   survey.
#' @examples
#' \donttest{
#' survey <- sw_demo("plotholders")
#' imputed <- sw_impute(survey, m = 5, also = "district")
#' imputed
#' sw_reliability(imputed)
#' }
#' @export
sw_impute <- function(survey, m = 20, also = NULL, models = "matched", iterations = 5, from = NULL, seed = 1) {
  survey <- as_survey(survey)
  check_options("impute")
  items <- analysed_items(survey)
  if (!misses_any(survey, items)) stop_input(message_of("e_nobody_misses_answer"))
  empty <- empty_items(survey, items)
  if (length(empty) > 0) stop_input(message_of("e_some_items_no"), faults = empty, hint = message_of("e_leave_them_out"))
  answers <- source_rows(survey, items, keyed = FALSE)
  found <- if (is.null(from)) chained_imputations(survey, answers, m, also, models, iterations, seed) else given_imputations(survey, answers, from)
  survey$imputed <- c(found, list(items = items, rows = case_rows(survey), also = also, seed = seed))
  class(survey) <- c("sw_imputations", class(survey)[class(survey) != "sw_imputations"])
  log_step(survey, "imputed", message_of("log_imputed", answers = sum(is.na(answers)), times = found$m, how = found$how))
}

# list(m, cells: by item a matrix, rows of the data with a gap x imputations; missing: by item the rows; convergence; how).
chained_imputations <- function(survey, answers, m, also, models, iterations, seed) {
  if (!requireNamespace("mice", quietly = TRUE)) {
    stop_input(message_of("e_imputation_needs_package"), hint = "install.packages(\"mice\"), or on Debian r-cran-mice.")
  }
  gaps <- colnames(answers)[colSums(is.na(answers)) > 0]
  helping <- helping_columns(survey, setdiff(also, colnames(answers)))
  options <- apply(answers, 2, function(x) length(unique(x[!is.na(x)])))
  varies <- options > 1
  own <- ifelse(options == 2, "logreg", ifelse(models == "ordered" & options > 2 & options <= 10, "polr", "pmm"))
  frame <- as.data.frame(answers)
  names(own) <- colnames(answers)
  for (item in names(own)[own %in% c("logreg", "polr")]) frame[[item]] <- factor(frame[[item]], ordered = own[[item]] == "polr")
  if (!is.null(helping)) frame <- cbind(frame, as.data.frame(helping))
  # Names of one's own: those of columns may be anything.
  plain <- paste0("v", seq_along(frame))
  method <- rep("", length(frame))
  method[seq_along(own)] <- ifelse(colnames(answers) %in% gaps & varies, own, "")
  if (!is.null(helping)) method[-seq_along(own)][colSums(is.na(helping)) > 0] <- "pmm"
  names(method) <- plain
  done <- chains_in_parts(stats::setNames(frame, plain), m, method, predictors_of(cbind(answers, helping), plain), iterations, seed)
  of <- match(gaps, colnames(answers))
  cells <- lapply(seq_along(gaps), function(k) {
    values <- do.call(cbind, lapply(done, function(part) part$imp[[plain[of[k]]]]))
    one <- answers[!is.na(answers[, of[k]]), of[k]][1]
    if (!varies[of[k]]) return(matrix(one, sum(is.na(answers[, of[k]])), m))
    vapply(values, function(x) as.numeric(as.character(x)), numeric(nrow(values))) |> matrix(ncol = m)
  })
  undrawn <- gaps[vapply(cells, anyNA, TRUE)]
  if (length(undrawn) > 0) stop_numeric(message_of("e_no_answers_could"), faults = undrawn, hint = message_of("e_leave_them_out"))
  rows <- lapply(of, function(j) case_rows(survey)[is.na(answers[, j])])
  names(cells) <- names(rows) <- gaps
  how <- paste("by chained equations,", if (models == "ordered") "models for ordered answers" else "predictive mean matching")
  list(m = as.integer(m), cells = cells, missing = rows, how = how,
    convergence = imputation_convergence(answers, cells, chain_of(done, plain[of], gaps)))
}

# Which columns predict which: all others, above 25 those that go with it most (van Buuren & Groothuis-Oudshoorn, 2011). A matrix of 0 and 1.
predictors_of <- function(x, names, most = 25L) {
  size <- abs(suppressWarnings(stats::cor(x, use = "pairwise.complete.obs")))
  size[is.na(size)] <- 0
  diag(size) <- -1
  out <- t(apply(-size, 1, rank, ties.method = "first") <= min(most, ncol(x) - 1)) + 0
  dimnames(out) <- list(names, names)
  out
}

# Chains five at a time, each five with a seed of their own, so that two processes give what one would.
chains_in_parts <- function(frame, m, method, predictors, iterations, seed) {
  sizes <- tabulate(ceiling(seq_len(m) / 5))
  seeds <- with_seed(seed, random_draws$sample(seq_len(1e6)))[seq_along(sizes)]
  one <- function(k) {
    # Nothing is looked for that depends on the others: the ridge of the regressions sees to it.
    with_seed(seeds[k], suppressWarnings(mice::mice(frame, m = sizes[k], maxit = iterations, method = method, predictorMatrix = predictors,
      printFlag = FALSE, eps = 0)))
  }
  cores <- if (may_fork()) min(2L, length(sizes)) else 1L
  done <- parallel::mclapply(seq_along(sizes), one, mc.cores = cores)
  failed <- Filter(function(part) !inherits(part, "mids"), done)
  if (length(failed) > 0) {
    stop_numeric(message_of("e_imputations_did_not"), faults = trimws(paste(format(failed[[1]]), collapse = " ")),
      hint = message_of("e_leave_out_items_hardly"))
  }
  done
}

# What the package keeps of each chain: list(mean, sd), each item x iteration x chain.
chain_of <- function(done, plain, items) {
  pick <- function(part) {
    each <- lapply(done, function(one) one[[part]][plain, , , drop = FALSE])
    array(unlist(each), c(dim(each[[1]])[1:2], sum(vapply(each, function(x) dim(x)[3], 1L))), list(items, NULL, NULL))
  }
  list(mean = pick("chainMean"), sd = sqrt(pick("chainVar")))
}

given_imputations <- function(survey, answers, from) {
  fine <- is.list(from) && !is.data.frame(from) && length(from) > 1 && all(vapply(from, is.data.frame, TRUE))
  if (!fine) stop_input(message_of("e_from_must_list"))
  whole <- nrow(source_everyone(survey))
  gaps <- colnames(answers)[colSums(is.na(answers)) > 0]
  faults <- c(
    messages_of("frame_rows", frame = which(vapply(from, nrow, 1L) != whole), rows = whole),
    messages_of("frame_lacks_items", frame = which(vapply(from, function(d) !all(gaps %in% names(d)), TRUE)))
  )
  if (length(faults) > 0) stop_input(message_of("e_imputed_data_frames"), faults = faults)
  rows <- lapply(gaps, function(item) case_rows(survey)[is.na(answers[, item])])
  specs <- item_spec(survey, gaps)
  cells <- lapply(seq_along(gaps), function(k) {
    out <- vapply(from, function(d) as.numeric(as.character(d[[gaps[k]]][rows[[k]]])), numeric(length(rows[[k]]))) |> matrix(ncol = length(from))
    low <- item_ends(specs[k, ], "lowest")
    high <- item_ends(specs[k, ], "highest")
    beyond <- is.na(out) | (!is.na(low) & (out < low | out > high))
    if (any(beyond)) stop_input(message_of("e_imputed_values_missing", gaps = gaps[k]), faults = paste(utils::head(unique(out[beyond]), 5)))
    out
  })
  names(cells) <- names(rows) <- gaps
  list(m = length(from), cells = cells, missing = rows, how = "elsewhere", convergence = imputation_convergence(answers, cells, NULL))
}

# Per item with gaps: how many, whether chains mix, and the share of the information on its mean that is missing (Rubin, 1987).
imputation_convergence <- function(answers, cells, chains) {
  rows <- lapply(names(cells), function(item) {
    x <- answers[, item]
    m <- ncol(cells[[item]])
    filled <- vapply(seq_len(m), function(i) {
      whole <- replace(x, is.na(x), cells[[item]][, i])
      c(mean(whole), stats::var(whole) / length(whole))
    }, numeric(2))
    between <- (1 + 1 / m) * stats::var(filled[1, ])
    within <- mean(filled[2, ])
    reduction <- function(part) if (is.null(chains)) NA_real_ else core_scale_reduction(matrix(chains[[part]][item, , ], ncol = m))
    plain_table(item = item, missing = sum(is.na(x)), reduction_mean = reduction("mean"), reduction_sd = reduction("sd"),
      information_missing = if (between + within > 0) between / (between + within) else NA_real_)
  })
  do.call(rbind, rows)
}
