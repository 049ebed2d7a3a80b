# SPDX-License-Identifier: MIT
# A program that UEFI firmware starts (PE32+, x86-64): it says so, and turns the
# machine off. Its header is written out by hand, so that an assembler is enough.
	.intel_syntax noprefix
	.text
image:
	.ascii	"MZ"
	.zero	58
	.long	pe - image
pe:
	.ascii	"PE\0\0"
	.short	0x8664			# x86-64
	.short	1			# section
	.long	0, 0, 0
	.short	sections - optional
	.short	0x22			# executable, any address
optional:
	.short	0x20b			# PE32+
	.byte	0, 0
	.long	end - start, 0, 0
	.long	start - image		# entry
	.long	start - image
	.quad	0
	.long	32, 32			# alignment in memory, in the file
	.short	0, 0, 0, 0, 0, 0
	.long	0
	.long	end - image
	.long	start - image		# headers
	.long	0
	.short	10			# UEFI application
	.short	0
	.quad	0, 0, 0, 0
	.long	0
	.long	6			# directories, all empty
	.quad	0, 0, 0, 0, 0, 0
sections:
	.ascii	".text\0\0\0"
	.long	end - start, start - image, end - start, start - image
	.long	0, 0
	.short	0, 0
	.long	0xe0000020		# code; read, write, execute
	.balign	32
start:
	sub	rsp, 40
	mov	rbx, rdx		# system table
	mov	rcx, [rbx + 64]		# console
	lea	rdx, [rip + said]
	call	[rcx + 8]		# OutputString
	mov	rax, [rbx + 88]		# runtime services
	mov	ecx, 2			# shut down
	xor	edx, edx
	xor	r8d, r8d
	xor	r9d, r9d
	call	[rax + 104]		# ResetSystem
said:
	.irpc	letter, "The buoy logger has started."
	.ascii	"\letter"
	.byte	0
	.endr
	.short	13, 10, 0
	.balign	32
end:
