using System;
using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Bostel.Data.Migrations
{
    /// <inheritdoc />
    public partial class Outcomes : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                UPDATE "Pieces" SET "RunId" = NULL WHERE "RunId" IN (SELECT "Id" FROM "Runs" WHERE "Verdict" IS NULL);
                UPDATE "Runs" SET "Verdict" = 'NotMeasured' WHERE "Verdict" IS NULL;
                """);

            migrationBuilder.DropIndex(
                name: "IX_Runs_PieceId",
                table: "Runs");

            migrationBuilder.DropIndex(
                name: "IX_Reports_PieceId",
                table: "Reports");

            migrationBuilder.RenameColumn(
                name: "Unit",
                table: "Runs",
                newName: "Key");

            migrationBuilder.AlterColumn<string>(
                name: "Verdict",
                table: "Runs",
                type: "text",
                nullable: false,
                defaultValue: "",
                oldClrType: typeof(string),
                oldType: "text",
                oldNullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "JobId",
                table: "Reports",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Key",
                table: "Reports",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "WithdrawnAt",
                table: "Reports",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "WithdrawnBy",
                table: "Reports",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "WithdrawnWhy",
                table: "Reports",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Shown",
                table: "Pieces",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Claim",
                table: "Jobs",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "LeaseUntil",
                table: "Jobs",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Worker",
                table: "Jobs",
                type: "text",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Accounts",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    Name = table.Column<string>(type: "text", nullable: false),
                    NameKey = table.Column<string>(type: "text", nullable: false),
                    PasswordHash = table.Column<string>(type: "text", nullable: false),
                    Role = table.Column<string>(type: "text", nullable: false),
                    Disabled = table.Column<bool>(type: "boolean", nullable: false),
                    MustChange = table.Column<bool>(type: "boolean", nullable: false),
                    Stamp = table.Column<string>(type: "text", nullable: false),
                    CreatedAt = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Accounts", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Counters",
                columns: table => new
                {
                    Name = table.Column<string>(type: "text", nullable: false),
                    Next = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Counters", x => x.Name);
                });

            migrationBuilder.CreateTable(
                name: "DataProtectionKeys",
                columns: table => new
                {
                    Id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    FriendlyName = table.Column<string>(type: "text", nullable: true),
                    Xml = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_DataProtectionKeys", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Outcomes",
                columns: table => new
                {
                    Key = table.Column<string>(type: "text", nullable: false),
                    Kind = table.Column<string>(type: "text", nullable: false),
                    Before = table.Column<string>(type: "text", nullable: true),
                    Body = table.Column<string>(type: "text", nullable: false),
                    BlobSha = table.Column<string>(type: "text", nullable: true),
                    CreatedAt = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Outcomes", x => x.Key);
                });

            migrationBuilder.CreateTable(
                name: "SignInAttempts",
                columns: table => new
                {
                    Id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    At = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    Address = table.Column<string>(type: "text", nullable: false),
                    NameKey = table.Column<string>(type: "text", nullable: false),
                    Succeeded = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SignInAttempts", x => x.Id);
                });

            migrationBuilder.InsertData(
                table: "Counters",
                columns: new[] { "Name", "Next" },
                values: new object[] { "report", 1001 });

            migrationBuilder.Sql("""
                UPDATE "Runs" SET "Key" = 'before-keys/' || "Id";
                UPDATE "Reports" SET "Key" = 'before-keys/' || "Id";
                UPDATE "Counters" SET "Next" = GREATEST("Next", 1 + COALESCE((SELECT MAX(SUBSTRING("Number" FROM 4)::int) FROM "Reports"), 0));
                UPDATE "Jobs" SET "Claim" = "Id"::text, "Kind" = CASE "Kind" WHEN 'run-plan' THEN 'RunPlan' ELSE INITCAP("Kind") END;
                INSERT INTO "Accounts" ("Id", "Name", "NameKey", "PasswordHash", "Role", "Disabled", "MustChange", "Stamp", "CreatedAt")
                    SELECT u."Id"::uuid, u."UserName", LOWER(u."UserName"), u."PasswordHash", COALESCE(r."Name", 'Reader'), FALSE, FALSE, u."Id", now()
                    FROM "AspNetUsers" u LEFT JOIN "AspNetUserRoles" m ON m."UserId" = u."Id" LEFT JOIN "AspNetRoles" r ON r."Id" = m."RoleId"
                    WHERE u."UserName" IS NOT NULL AND u."PasswordHash" IS NOT NULL;
                DROP SCHEMA IF EXISTS hangfire CASCADE;
                """);

            migrationBuilder.CreateIndex(
                name: "IX_Runs_PieceId_Key",
                table: "Runs",
                columns: new[] { "PieceId", "Key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Reports_JobId",
                table: "Reports",
                column: "JobId",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Reports_PieceId_Key",
                table: "Reports",
                columns: new[] { "PieceId", "Key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Reports_RunId",
                table: "Reports",
                column: "RunId");

            migrationBuilder.CreateIndex(
                name: "IX_Jobs_Claim",
                table: "Jobs",
                column: "Claim",
                unique: true,
                filter: "\"State\" IN ('Queued', 'Running')");

            migrationBuilder.CreateIndex(
                name: "IX_Jobs_State",
                table: "Jobs",
                column: "State");

            migrationBuilder.CreateIndex(
                name: "IX_Accounts_NameKey",
                table: "Accounts",
                column: "NameKey",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_SignInAttempts_Address_At",
                table: "SignInAttempts",
                columns: new[] { "Address", "At" });

            migrationBuilder.CreateIndex(
                name: "IX_SignInAttempts_NameKey_At",
                table: "SignInAttempts",
                columns: new[] { "NameKey", "At" });

            migrationBuilder.AddForeignKey(
                name: "FK_Reports_Runs_RunId",
                table: "Reports",
                column: "RunId",
                principalTable: "Runs",
                principalColumn: "Id",
                onDelete: ReferentialAction.Restrict);

            migrationBuilder.DropTable(
                name: "AspNetRoleClaims");

            migrationBuilder.DropTable(
                name: "AspNetUserClaims");

            migrationBuilder.DropTable(
                name: "AspNetUserLogins");

            migrationBuilder.DropTable(
                name: "AspNetUserRoles");

            migrationBuilder.DropTable(
                name: "AspNetUserTokens");

            migrationBuilder.DropTable(
                name: "Features");

            migrationBuilder.DropTable(
                name: "Figures");

            migrationBuilder.DropTable(
                name: "AspNetRoles");

            migrationBuilder.DropTable(
                name: "AspNetUsers");

            migrationBuilder.DropColumn(
                name: "Alignment",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "DeviationSha",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "Frozen",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "PlanBody",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "Preparation",
                table: "Runs");

            migrationBuilder.DropColumn(
                name: "Statistics",
                table: "Runs");

            migrationBuilder.DropSequence(
                name: "report_number");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) =>
            throw new System.NotSupportedException("Restore a backup made before: what was dropped is not kept twice.");
    }
}
