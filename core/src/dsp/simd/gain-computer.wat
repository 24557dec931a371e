;; KernelExports of the loops in gain-computer.ts, two frames to a register where one does not wait for the other. Same operations in
;; the same order, so the same bits. All places are byte offsets into `memory`; `frames` is a multiple of two.
(module
  (import "o" "memory" (memory 1))

  ;; level = the larger of |left| and |right|, a little above zero.
  (func (export "peaks") (param $left i32) (param $right i32) (param $level i32) (param $frames i32)
    (loop $two
      (v128.store (local.get $level) (f64x2.add (v128.const f64x2 1e-6 1e-6) (f64x2.pmax
        (f64x2.abs (f64x2.promote_low_f32x4 (v128.load64_zero (local.get $left))))
        (f64x2.abs (f64x2.promote_low_f32x4 (v128.load64_zero (local.get $right)))))))
      (local.set $left (i32.add (local.get $left) (i32.const 8)))
      (local.set $right (i32.add (local.get $right) (i32.const 8)))
      (local.set $level (i32.add (local.get $level) (i32.const 16)))
      (br_if $two (local.tee $frames (i32.sub (local.get $frames) (i32.const 2))))))

  ;; Levels from numbers to dB, in place, and the changes of the static curve; gives the highest level.
  (func (export "wanted") (param $level i32) (param $threshold i32) (param $slope i32) (param $knee i32) (param $change i32) (param $frames i32) (param $scale f64) (result f64)
    (local $x v128) (local $e v128) (local $m v128) (local $s v128) (local $z v128) (local $q v128) (local $big v128) (local $most v128) (local $k v128) (local $factor v128)
    (local.set $factor (f64x2.splat (local.get $scale)))
    (local.set $most (v128.const f64x2 -120 -120))
    (loop $two
      ;; log2, as in math.ts: exponent and mantissa between √½ and √2
      (local.set $x (v128.load (local.get $level)))
      (local.set $e (f64x2.sub (v128.or (i64x2.shr_u (local.get $x) (i32.const 52)) (v128.const i64x2 0x4330000000000000 0x4330000000000000)) (v128.const f64x2 4503599627371519 4503599627371519)))
      (local.set $m (v128.or (v128.and (local.get $x) (v128.const i64x2 0x000fffffffffffff 0x000fffffffffffff)) (v128.const i64x2 0x3ff0000000000000 0x3ff0000000000000)))
      (local.set $big (f64x2.gt (local.get $m) (v128.const f64x2 1.4142135623730951 1.4142135623730951)))
      (local.set $m (v128.bitselect (f64x2.mul (local.get $m) (v128.const f64x2 0.5 0.5)) (local.get $m) (local.get $big)))
      (local.set $e (f64x2.add (local.get $e) (v128.and (local.get $big) (v128.const f64x2 1 1))))
      (local.set $s (f64x2.div (f64x2.sub (local.get $m) (v128.const f64x2 1 1)) (f64x2.add (local.get $m) (v128.const f64x2 1 1))))
      (local.set $z (f64x2.mul (local.get $s) (local.get $s)))
      (local.set $q (f64x2.mul (local.get $z) (local.get $z)))
      (local.set $x (f64x2.mul (local.get $factor) (f64x2.add (local.get $e) (f64x2.mul (v128.const f64x2 2.8853900817779268 2.8853900817779268) (f64x2.mul (local.get $s)
        (f64x2.add (f64x2.add (v128.const f64x2 1 1) (f64x2.mul (local.get $z) (v128.const f64x2 0.3333333333333333 0.3333333333333333)))
          (f64x2.mul (local.get $q) (f64x2.add (f64x2.add (v128.const f64x2 0.2 0.2) (f64x2.mul (local.get $z) (v128.const f64x2 0.14285714285714285 0.14285714285714285)))
            (f64x2.mul (local.get $q) (f64x2.add (f64x2.add (v128.const f64x2 0.1111111111111111 0.1111111111111111) (f64x2.mul (local.get $z) (v128.const f64x2 0.09090909090909091 0.09090909090909091)))
              (f64x2.mul (local.get $q) (v128.const f64x2 0.07692307692307693 0.07692307692307693)))))))))))) 
      (v128.store (local.get $level) (local.get $x))
      (local.set $most (f64x2.pmax (local.get $most) (local.get $x)))
      ;; the knee, and what goes beyond it
      (local.set $x (f64x2.sub (local.get $x) (v128.load (local.get $threshold))))
      (local.set $k (v128.load (local.get $knee)))
      (local.set $m (f64x2.mul (v128.const f64x2 0.5 0.5) (local.get $k)))
      (local.set $z (f64x2.pmin (local.get $k) (f64x2.pmax (v128.const f64x2 0 0) (f64x2.add (local.get $x) (local.get $m)))))
      (v128.store (local.get $change) (f64x2.mul (v128.load (local.get $slope)) (f64x2.add
        (f64x2.div (f64x2.mul (local.get $z) (local.get $z)) (f64x2.pmax (v128.const f64x2 1e-9 1e-9) (f64x2.add (local.get $k) (local.get $k))))
        (f64x2.pmax (v128.const f64x2 0 0) (f64x2.sub (local.get $x) (local.get $m))))))
      (local.set $level (i32.add (local.get $level) (i32.const 16)))
      (local.set $threshold (i32.add (local.get $threshold) (i32.const 16)))
      (local.set $slope (i32.add (local.get $slope) (i32.const 16)))
      (local.set $knee (i32.add (local.get $knee) (i32.const 16)))
      (local.set $change (i32.add (local.get $change) (i32.const 16)))
      (br_if $two (local.tee $frames (i32.sub (local.get $frames) (i32.const 2)))))
    (f64.max (f64x2.extract_lane 0 (local.get $most)) (f64x2.extract_lane 1 (local.get $most))))

  ;; Smooths the changes, in place: by one pole on the way down, by the other on the way up. Without a jump, since noise would
  ;; have each second one guessed wrongly.
  (func (export "smooth") (param $change i32) (param $frames i32) (param $attack f64) (param $release f64) (param $from f64) (result f64)
    (local $s v128) (local $d v128) (local $w v128) (local $a v128) (local $r v128) (local $zero v128)
    (local.set $s (f64x2.splat (local.get $from)))
    (local.set $a (f64x2.splat (local.get $attack)))
    (local.set $r (f64x2.splat (local.get $release)))
    (loop $each
      (local.set $w (v128.load64_splat (local.get $change)))
      (local.set $d (f64x2.sub (local.get $s) (local.get $w)))
      (local.set $s (f64x2.add (local.get $w) (f64x2.add
        (f64x2.mul (local.get $a) (f64x2.pmax (local.get $zero) (local.get $d)))
        (f64x2.mul (local.get $r) (f64x2.pmin (local.get $zero) (local.get $d))))))
      (v128.store64_lane 0 (local.get $change) (local.get $s))
      (local.set $change (i32.add (local.get $change) (i32.const 8)))
      (br_if $each (local.tee $frames (i32.sub (local.get $frames) (i32.const 1)))))
    (f64x2.extract_lane 0 (local.get $s)))

  ;; gain = 2^(change / 6.02), as exp2 in math.ts gives it.
  (func (export "gains") (param $change i32) (param $gain i32) (param $frames i32)
    (local $x v128) (local $n v128) (local $y v128) (local $q v128)
    (loop $two
      (local.set $x (f64x2.mul (v128.const f64x2 0.16609640474436813 0.16609640474436813) (v128.load (local.get $change))))
      (local.set $n (f64x2.sub (f64x2.floor (f64x2.add (local.get $x) (v128.const f64x2 1074.5 1074.5))) (v128.const f64x2 1074 1074)))
      (local.set $y (f64x2.mul (f64x2.sub (local.get $x) (local.get $n)) (v128.const f64x2 0.6931471805599453 0.6931471805599453)))
      (local.set $q (f64x2.mul (local.get $y) (local.get $y)))
      (v128.store (local.get $gain) (f64x2.mul
        (f64x2.add (f64x2.add (v128.const f64x2 1 1) (local.get $y)) (f64x2.mul (local.get $q)
          (f64x2.add (f64x2.add (v128.const f64x2 0.5 0.5) (f64x2.mul (local.get $y) (v128.const f64x2 1.6666666666666666e-1 1.6666666666666666e-1))) (f64x2.mul (local.get $q)
            (f64x2.add (f64x2.add (v128.const f64x2 4.1666666666666664e-2 4.1666666666666664e-2) (f64x2.mul (local.get $y) (v128.const f64x2 8.333333333333333e-3 8.333333333333333e-3))) (f64x2.mul (local.get $q)
              (f64x2.add (f64x2.add (v128.const f64x2 1.388888888888889e-3 1.388888888888889e-3) (f64x2.mul (local.get $y) (v128.const f64x2 1.984126984126984e-4 1.984126984126984e-4))) (f64x2.mul (local.get $q)
                (f64x2.add (v128.const f64x2 2.48015873015873e-5 2.48015873015873e-5) (f64x2.mul (local.get $y) (v128.const f64x2 2.7557319223985893e-6 2.7557319223985893e-6)))))))))))
        ;; a power of two by its exponent alone
        (i64x2.shl (f64x2.add (local.get $n) (v128.const f64x2 4503599627371519 4503599627371519)) (i32.const 52))))
      (local.set $change (i32.add (local.get $change) (i32.const 16)))
      (local.set $gain (i32.add (local.get $gain) (i32.const 16)))
      (br_if $two (local.tee $frames (i32.sub (local.get $frames) (i32.const 2)))))))
