"""The Edges room: what stands along each side, joint by joint, in plan and unrolled."""
