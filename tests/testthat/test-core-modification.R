survey <- sw_demo("plotholders")
plain <- sw_structure(survey)
fit <- sw_confirm(survey, plain)

# The rows about a pair, in either order.
setequal_rows <- function(estimates, case) {
  (estimates$first == case[[1]] & estimates$second == case[[2]]) | (estimates$first == case[[2]] & estimates$second == case[[1]])
}

test_that("a modification index is about the fall of chi-square, and its change about the estimate", {
  table <- tidy(fit, "modifications")
  for (case in list(list("kin5", "craft"), list("craft5", "craft6"), list("calm5", "kin3"))) {
    row <- table[table$item == case[[1]] & table$with == case[[2]], ]
    freed <- sw_confirm(survey, if (case[[2]] == "craft") sw_add_loading(plain, "kin5", "craft") else sw_add_pair(plain, case[[1]], case[[2]]))
    fall <- fit$parts$figures$chi_square - freed$parts$figures$chi_square
    expect_equal(row$index, fall, tolerance = .15)
    estimates <- tidy(freed, "estimates")
    mine <- estimates[setequal_rows(estimates, case), ]
    expect_equal(row$change, mine$estimate, tolerance = .2)
  }
})

test_that("score tests are exact where one step is enough", {
  # With no covariances freed but one, the fall is n (-ln(1 - r^2)) and the index n r^2.
  r <- diag(4)
  r[1, 2] <- r[2, 1] <- .1
  cells <- data.frame(part = 2L, row = 1:4, column = 1:4, free = 1:4, value = 0)
  candidates <- data.frame(part = 2L, row = 2:1 + 0L, column = c(1L, 3L), free = 0L, value = 0)[1, ]
  at <- core("kernel_score_tests")(cells, 4L, 1L, list(list(share = 1, covariance = r, mean = numeric(4))), rep(1, 4), candidates)
  expect_equal(100 / 2 * at$slope^2 / at$curvature, 100 * .01, tolerance = 1e-10)
  expect_equal(-at$slope / at$curvature, .1, tolerance = 1e-10)
})

test_that("candidates are all that is fixed at zero, each once", {
  cells <- core("structure_cells")(sw_structure(a = paste0("i", 1:3), b = paste0("i", 4:6)) |> sw_add_pair("i1", "i4"), paste0("i", 1:6), "variance")
  found <- core("core_candidates")(cells, 6, 2)
  expect_equal(sum(found$part == 0), 6)
  expect_equal(sum(found$part == 2), 14)
  expect_false(any(found$part == 2 & found$row == 4 & found$column == 1))
})

test_that("power of the score test by its definition", {
  # index 6 at a change of .2: noncentrality at .1 is 6 / 4
  expect_equal(core("core_change_power")(6, .2, .1), pchisq(qchisq(.95, 1), 1, ncp = 1.5, lower.tail = FALSE))
})

test_that("each change is read by its test, its size and the power to see it", {
  table <- tidy(fit, "modifications")
  matters <- ifelse(table$change_of == "pair", .10, .20)
  large <- p.adjust(table$p.value, "holm") < .05
  by_hand <- ifelse(large, ifelse(abs(table$standard_change) >= matters, "matters", "trivial"), ifelse(table$power < .75, "too_few_cases", "nothing"))
  expect_equal(table$reading_code, by_hand)
  expect_true(all(c("matters", "too_few_cases") %in% by_hand))
  # Lengths of residual pairs: a case each that chance brings in one of twenty, and one that it does not.
  expect_lt(mean(large), mean(table$p.value < .05))
  expect_equal(table$reading[match("too_few_cases", table$reading_code)], "too few cases to tell")
  strict <- tidy(sw_confirm(survey, plain, limits = sw_limits(score_test_p = 1e-9, change_power = .1)), "modifications")
  expect_lt(sum(strict$reading_code == "matters"), sum(table$reading_code == "matters"))
})
